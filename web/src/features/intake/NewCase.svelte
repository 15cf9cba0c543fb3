<script lang="ts">
  import { onMount } from "svelte";
  import { api, type Meaning, type Standard } from "../../api/client";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import Choice from "../../ui/Choice.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { rowsOf } from "../library/state.svelte";
  import { siteOf } from "../site";
  import { serves, words } from "../vocabulary.svelte";
  import { PRIMARY_ROWS, ROWS } from "./teeth";

  let standards = $state<Standard[]>([]);
  let code = $state("");
  let tooth = $state("");
  let kind = $state("full-crown");
  let standardId = $state("lithium-disilicate-bonded");
  let meaning = $state<Meaning>("natural");
  let biteWith = $state<"prep" | "preop">("prep");
  let error = $state("");
  let busy = $state(false);
  const rows = $derived(words.kind(kind)?.primary ? PRIMARY_ROWS : ROWS);
  const standard = $derived(standards.find((s) => s.id === standardId));
  const fitting = $derived(standards.filter((s) => serves(s, tooth || (s.fits[0] ?? ""), kind)));
  const first = $derived(standard ? rowsOf(standard)[0] : undefined);
  $effect(() => {
    if (tooth && !rows.flat().includes(tooth)) tooth = "";
  });
  $effect(() => {
    // A front tooth has its own figures, a canine too, and so has every kind of restoration.
    if (standard && !fitting.includes(standard))
      standardId = (fitting.find((s) => s.material === standard.material) ?? fitting[0])?.id ?? standardId;
  });

  onMount(async () => {
    try {
      [standards] = await Promise.all([api.standards(), words.load()]);
    } catch (e) {
      error = e instanceof Error ? e.message : String(e);
    }
  });

  async function start(event: SubmitEvent) {
    event.preventDefault();
    if (!tooth) {
      error = "Choose the tooth first.";
      return;
    }
    if (!standard || !fitting.includes(standard)) {
      error = `There is no standard for ${words.kind(kind)?.label ?? kind} on tooth ${tooth}: choose another kind.`;
      return;
    }
    busy = true;
    try {
      const made = await api.addCase({
        code,
        tooth,
        notation: "fdi",
        restoration: kind,
        material: standard.material,
        standard_id: standard.id,
        surface_meaning: meaning,
        opposing_frame: biteWith,
        notes: "",
      });
      router.go(`/case/${made.id}/scans?attempt=${siteOf(made, null)!.readings[0]!.id}`);
    } catch (e) {
      error = e instanceof Error ? e.message : String(e);
    } finally {
      busy = false;
    }
  }
</script>

<main>
  <form class="mx-auto flex max-w-5xl flex-col gap-5 px-6 py-6" onsubmit={start}>
    <header class="flex items-center gap-4">
      <Button onclick={() => router.go("/")}>Back</Button>
      <h1 class="text-3xl font-bold">New case</h1>
    </header>
    {#if error}<Notice tone="error">{error}</Notice>{/if}
    <label class="flex max-w-sm flex-col gap-1">
      <span class="text-sm text-soft">Case code (a code, never a name)</span>
      <input
        bind:value={code}
        required
        maxlength="40"
        placeholder="SM-0150"
        class="min-h-11 rounded-md border border-rule bg-card px-3 text-lg"
      />
    </label>
    <fieldset class="flex flex-col gap-1 overflow-x-auto">
      <legend class="mb-1 text-sm text-soft">Tooth (FDI), patient facing you: right on the left</legend>
      {#each rows as row, r (r)}
        <div class="flex gap-1">
          {#each row as number, i (number)}
            <button
              type="button"
              aria-pressed={tooth === number}
              aria-label="Tooth {number}"
              class="min-h-12 min-w-12 rounded border text-base {i === row.length / 2 ? 'ml-3' : ''}
              {tooth === number
                ? 'border-pine bg-pine font-bold text-pine-ink'
                : 'border-rule bg-card text-ink'}"
              onclick={() => (tooth = number)}>{number}</button
            >
          {/each}
        </div>
      {/each}
    </fieldset>
    <div class="grid grid-cols-2 gap-5">
      <div class="flex flex-col gap-2">
        <Choice
          label="Restoration"
          value={kind}
          items={words.all?.kinds ?? []}
          onchange={(v) => (kind = v)}
        />
        <Choice
          label="Material and standard"
          value={standardId}
          items={fitting.map((s) => ({ value: s.id, label: s.title, hint: s.reason }))}
          onchange={(id) => (standardId = id)}
        />
        {#if standard}
          <p class="text-soft">
            {standard.reason}
            {#if first}{first.title}: {first.limits.min} to {first.limits.max} mm, target {first.limits
                .target}.{/if}
            {standard.caution}
          </p>
        {/if}
      </div>
      <div class="flex flex-col gap-3">
        <Choice
          label="The surface before cutting is"
          value={meaning}
          items={words.all?.meanings ?? []}
          onchange={(v) => (meaning = v as typeof meaning)}
        />
        <Choice
          label="The opposing scan was exported with"
          value={biteWith}
          items={[
            { value: "prep", label: "the preparation scan" },
            { value: "preop", label: "the scan before cutting" },
          ]}
          onchange={(v) => (biteWith = v as typeof biteWith)}
        />
      </div>
    </div>
    <div class="flex items-center gap-4">
      <Button type="submit" tone="main" disabled={busy || standards.length === 0}>Next: add scans</Button>
      <p class="text-sm text-soft">The manufacturer's instructions for the very material come first.</p>
    </div>
  </form>
</main>
