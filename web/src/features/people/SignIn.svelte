<script lang="ts">
  import { sentenceOf } from "../../api/client";
  import Button from "../../ui/Button.svelte";
  import Field from "../../ui/Field.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { who } from "../../ui/who.svelte";

  let name = $state("");
  let password = $state("");
  let error = $state("");
  let busy = $state(false);

  async function enter(event: Event) {
    event.preventDefault();
    [busy, error] = [true, ""];
    try {
      await who.signIn(name, password);
    } catch (e) {
      error = sentenceOf(e);
      password = "";
    } finally {
      busy = false;
    }
  }
</script>

<main class="mx-auto flex min-h-page max-w-md flex-col justify-center gap-6 px-6 py-12">
  <div>
    <h1 class="text-4xl font-bold">Vane Line</h1>
    <p class="text-lg text-soft">This server is reached by other machines, so it asks who you are.</p>
  </div>
  <form class="flex flex-col gap-4" onsubmit={enter}>
    <Field label="Name or code" bind:value={name} tall autocomplete="username" required />
    <Field
      label="Password"
      bind:value={password}
      tall
      type="password"
      autocomplete="current-password"
      required
    />
    {#if error}<Notice tone="error">{error}</Notice>{/if}
    <Button tone="main" type="submit" disabled={busy}>Sign in</Button>
  </form>
  <p class="text-sm text-soft">
    The dentist decides. Local rules and the manufacturer's instructions come first. Codes, never patients'
    names.
  </p>
</main>
