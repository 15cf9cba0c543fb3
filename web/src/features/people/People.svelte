<script lang="ts">
  import { onMount } from "svelte";
  import { api, sentenceOf, type Person } from "../../api/client";
  import Ask from "../../ui/Ask.svelte";
  import Button from "../../ui/Button.svelte";
  import Field from "../../ui/Field.svelte";
  import Choice from "../../ui/Choice.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { who } from "../../ui/who.svelte";

  /** One's own password and sessions; for an owner the people of this server. */
  const ROLES = [
    { value: "dentist", label: "Dentist", hint: "every case of the practice" },
    { value: "instructor", label: "Instructor", hint: "every case and exercise of the school" },
    { value: "student", label: "Student", hint: "the own hand-ins; the name is the code handed in by" },
    { value: "laboratory", label: "Laboratory", hint: "what is shared with it, with its package" },
    { value: "owner", label: "Owner", hint: "everything, and the people" },
  ];
  let people = $state<Person[]>([]);
  let [name, role, password] = $state(["", "dentist", ""]);
  let [before, after] = $state(["", ""]);
  let error = $state("");
  let said = $state("");
  let renewing = $state<Person | null>(null);
  let renewed = $state("");
  const owner = $derived(who.person?.role === "owner");

  const attempt = async (work: () => Promise<unknown>, done: string) => {
    [error, said] = ["", ""];
    try {
      await work();
      said = done;
      if (owner && who.person) people = await api.people();
    } catch (e) {
      error = sentenceOf(e);
    }
  };
  onMount(() => void (owner && attempt(async () => {}, "")));

  function add(event: Event) {
    event.preventDefault();
    void attempt(async () => {
      await api.addPerson(name, role as Person["role"], password);
      [name, password] = ["", ""];
    }, "Added.");
  }
  function change(event: Event) {
    event.preventDefault();
    void attempt(async () => {
      await api.changeOwnPassword(before, after);
      who.person = null;
    }, "");
  }
  function renew(event: Event) {
    event.preventDefault();
    const person = renewing;
    if (!person) return;
    void attempt(async () => {
      await api.changePassword(person.id, renewed);
      [renewing, renewed] = [null, ""];
    }, `${person.name} has a new password, and is signed out everywhere.`);
  }
</script>

<main class="mx-auto flex max-w-4xl flex-col gap-6 px-6 py-6">
  <header class="flex items-center gap-4">
    <Home />
    <h1 class="text-lg">People</h1>
    <div class="ml-auto flex gap-2"><HelpAndTheme /></div>
  </header>
  {#if error}<Notice tone="error">{error}</Notice>{/if}
  {#if said}<p role="status">{said}</p>{/if}
  {#if !who.person}
    <Notice>On this machine alone nobody signs in. Listening wider, the server asks everybody.</Notice>
  {:else}
    <section class="flex flex-col gap-3 rounded-lg border border-rule bg-card p-4">
      <h2 class="text-xl font-bold">You: {who.person.name}, {who.person.role}</h2>
      <div class="flex flex-wrap gap-2">
        <Button tone="main" onclick={() => who.signOut()}>Sign out</Button>
        <Button onclick={() => who.signOut(true)}>Sign out on every machine</Button>
      </div>
      <form class="flex flex-wrap items-end gap-3" onsubmit={change}>
        <Field
          label="Password now"
          bind:value={before}
          type="password"
          autocomplete="current-password"
          required
        />
        <Field
          label="New, 12 characters or more"
          bind:value={after}
          type="password"
          autocomplete="new-password"
          minlength={12}
          required
        />
        <Button type="submit">Change it</Button>
      </form>
    </section>
  {/if}
  {#if owner}
    <section class="flex flex-col gap-3" aria-label="Everybody">
      <h2 class="text-xl font-bold">Everybody</h2>
      <ul class="flex flex-col">
        {#each people as person (person.id)}
          <li class="flex min-h-14 flex-wrap items-center gap-3 border-b border-rule py-1">
            <b class="text-lg">{person.name}</b>
            <span class="text-soft">{person.role}</span>
            <span class="ml-auto flex gap-2">
              <Button size="slim" onclick={() => ((renewing = person), (renewed = ""))}>New password</Button>
              <Ask
                title="Remove {person.name}?"
                text="The person is signed out and cannot sign in any more. What the person made stays."
                yes="Remove"
                onyes={() => void attempt(() => api.removePerson(person.id), "Removed.")}>Remove</Ask
              >
            </span>
            {#if renewing?.id === person.id}
              <form class="flex w-full flex-wrap items-end gap-3 pb-2" onsubmit={renew}>
                <Field
                  label="New password for {person.name}"
                  bind:value={renewed}
                  type="password"
                  autocomplete="new-password"
                  minlength={12}
                  required
                />
                <Button type="submit">Set it</Button>
              </form>
            {/if}
          </li>
        {/each}
      </ul>
      <form class="flex flex-wrap items-end gap-3 rounded-lg border border-rule bg-card p-4" onsubmit={add}>
        <Field label="Name or code" bind:value={name} maxlength={40} autocomplete="off" required />
        <div class="w-56">
          <Choice label="Role" value={role} items={ROLES} onchange={(v) => (role = v)} />
        </div>
        <Field
          label="Password, 12 characters or more"
          bind:value={password}
          type="password"
          autocomplete="new-password"
          minlength={12}
          required
        />
        <Button tone="main" type="submit">Add</Button>
      </form>
    </section>
  {/if}
</main>
