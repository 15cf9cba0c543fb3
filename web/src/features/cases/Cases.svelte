<script lang="ts">
  import { Archive, CircleHelp } from "@lucide/svelte";
  import { onMount } from "svelte";
  import type { Case } from "../../api/client";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import Ask from "../../ui/Ask.svelte";
  import { help } from "../../ui/help.svelte";
  import Notice from "../../ui/Notice.svelte";
  import Choice from "../../ui/Choice.svelte";
  import { siteOf, teethOf } from "../site";
  import { FILTERS, SORTS, when } from "./rows";
  import { words } from "../vocabulary.svelte";
  import { CaseList } from "./state.svelte";
  import { who } from "../../ui/who.svelte";

  const list = new CaseList();
  let chooser: HTMLInputElement;
  onMount(() => {
    void list.load();
    void words.load().catch(() => {}); // the list says for itself when the server is away
  });
  /** Where a case is opened: on its newest attempt, where it stands. */
  const openAt = (c: Case) => {
    const newest = siteOf(c, null)?.readings.at(-1);
    return newest ? `/case/${c.id}?attempt=${newest.id}` : `/case/${c.id}`;
  };
  /** A measured case to walk through, a made-up one first. */
  const walkable = $derived.by(() => {
    const measured = (list.cases ?? []).filter((row) => row.standing.picture).map((row) => row.case);
    return measured.find((c) => c.demo) ?? measured[0] ?? null;
  });
  const TONES: Record<string, string> = {
    "not-yet": "border-l-short",
    failed: "border-l-short",
    "cut-no-more": "border-l-over",
    stop: "border-l-pine",
    measuring: "border-l-unsure",
    "cannot-say": "border-l-unsure",
  };
</script>

<main class="mx-auto flex max-w-5xl flex-col gap-6 px-6 py-8">
  <header class="flex items-end justify-between gap-4">
    <div>
      <h1 class="text-4xl font-bold">Vane Line</h1>
      <p class="text-lg text-soft">Where a preparation falls short, by how much, and when to stop.</p>
    </div>
    <div class="flex shrink-0 gap-2 whitespace-nowrap">
      <Button
        size="slim"
        aria-label="Help"
        title="Words, and what a screen says (?)"
        onclick={() => help.toggle()}><CircleHelp size={20} aria-hidden="true" /></Button
      >
      {#if walkable}
        <Button onclick={() => (help.begin(), router.go(openAt(walkable)))}>First walk</Button>
      {/if}
      {#if who.person?.role !== "laboratory"}
        <Button onclick={() => router.go("/school")}>Exercises</Button>
      {/if}
      {#if !who.limited}
        <Button onclick={() => router.go("/career")}>Own cases together</Button>
      {/if}
      {#if who.person}
        <Button onclick={() => router.go("/people")}>{who.person.name}</Button>
      {/if}
      {#if !who.limited}
        <Button onclick={() => router.go("/library")}>Standards, burs</Button>
        <Button tone="main" onclick={() => router.go("/new")}>New case</Button>
      {/if}
    </div>
  </header>
  {#if list.error}<Notice tone="error">{list.error}</Notice>{/if}
  {#if list.cases && list.cases.length === 0}
    <Notice>
      <p class="text-lg font-semibold">No cases yet.</p>
      <p>
        A case needs a scan of the preparation. With the scan before cutting it also tells the depth of the
        cut, and with the opposing teeth the space between them.
      </p>
    </Notice>
  {/if}
  {#if list.cases?.length}
    <div class="flex flex-wrap items-end gap-3" role="search">
      <label class="flex min-w-64 flex-1 flex-col gap-1">
        <span class="text-sm text-soft">Find: code, tooth, material, place</span>
        <input
          type="search"
          bind:value={list.typed}
          class="min-h-11 rounded-md border border-rule bg-card px-3 text-base"
        />
      </label>
      <div class="w-56">
        <Choice
          label="Show"
          value={list.filter}
          items={FILTERS}
          onchange={(value) => (list.filter = value)}
        />
      </div>
      <div class="w-56">
        <Choice label="Order" value={list.sort} items={SORTS} onchange={(value) => list.sortBy(value)} />
      </div>
      <p class="min-h-11 content-center text-soft" role="status">
        {list.shown.length} of {list.cases.length}
      </p>
    </div>
  {/if}
  <ul class="flex flex-col gap-3">
    {#each list.shown as row (row.case.id)}
      {@const c = row.case}
      {@const site = siteOf(c, null)}
      <li class="flex items-stretch gap-2">
        <a
          href="/case/{c.id}"
          onclick={(e) => (e.preventDefault(), router.go(openAt(c)))}
          class="flex min-w-0 flex-1 items-center gap-4 rounded-lg border border-l-8 border-rule bg-card pr-4 text-ink no-underline hover:border-pine
            {TONES[row.standing.state] ?? 'border-l-rule'}"
        >
          {#if row.standing.picture}
            <img
              src="/api/pictures/{row.standing.picture}"
              alt=""
              width="120"
              height="90"
              loading="lazy"
              class="h-22.5 w-30 shrink-0 object-cover"
            />
          {:else}
            <span class="grid h-22.5 w-30 shrink-0 place-items-center bg-paper text-soft" aria-hidden="true"
              >no scan yet</span
            >
          {/if}
          <span class="w-16 text-center text-3xl font-bold">{teethOf(c)}</span>
          <span class="min-w-0 flex-1">
            <span class="block text-lg leading-snug font-semibold first-letter:uppercase"
              >{row.standing.text}</span
            >
            <span class="block text-soft"
              >{c.code} · {site?.restoration.replaceAll("-", " ")}, {site?.material.replaceAll("-", " ")} · {when(
                row.changed_at,
              )}{c.demo ? " · demo, made-up" : ""}</span
            >
          </span>
        </a>
        {#if words.kind(site?.restoration)?.planned}
          <a
            href="/case/{c.id}/plan"
            onclick={(e) => (e.preventDefault(), router.go(`/case/${c.id}/plan`))}
            class="flex items-center rounded-lg border border-rule bg-card px-5 text-ink no-underline hover:border-pine"
            >Plan</a
          >
        {/if}
        <button
          type="button"
          aria-label="Put {c.code} away"
          title="Put away; it can be taken back"
          class="flex min-w-11 items-center justify-center rounded-lg border border-rule bg-card text-soft hover:border-pine hover:text-ink"
          onclick={() => void list.putAway(c)}><Archive size={20} aria-hidden="true" /></button
        >
      </li>
    {:else}
      {#if list.cases?.length}<li class="py-4 text-lg text-soft">No case has all of this.</li>{/if}
    {/each}
  </ul>
  {#if list.away.length}
    <details class="rounded-lg border border-rule bg-card px-5 py-3">
      <summary class="min-h-8 cursor-pointer text-lg">Put away: {list.away.length}</summary>
      <p class="pt-1 text-soft">Deleted for good thirty days after they were put away.</p>
      <ul class="flex flex-col gap-2 pt-3">
        {#each list.away as c (c.id)}
          <li class="flex items-center gap-3" aria-label="{c.code}, put away">
            <span class="flex-1 text-lg"
              ><b>{c.code}</b> · tooth {teethOf(c)} · since {c.put_away_at?.slice(0, 10)}</span
            >
            <Button onclick={() => void list.takeBack(c)}>Take back</Button>
            <Ask
              title="Delete {c.code} for good?"
              text="Its scans, measurements and plans are deleted from this machine. This cannot be undone."
              yes="Delete for good"
              onyes={() => void list.deleteForGood(c)}>Delete</Ask
            >
          </li>
        {/each}
      </ul>
    </details>
  {/if}
  <div class="flex items-center gap-4">
    <input
      bind:this={chooser}
      type="file"
      accept=".zip"
      class="hidden"
      aria-label="Case file"
      onchange={() => {
        const file = chooser.files?.[0];
        chooser.value = "";
        if (file) void list.bring(file);
      }}
    />
    <Button disabled={list.bringing !== ""} onclick={() => chooser.click()}>Bring a case from a file</Button>
    {#if list.bringing}<p role="status">Reading {list.bringing} …</p>{/if}
  </div>
  <p class="text-sm text-soft">
    It measures surfaces. It sees no pulp, decay, cracks or patient: the dentist decides, and local
    regulations and manufacturers' instructions come first. Everything stays on this machine; use codes, never
    names.
  </p>
</main>
