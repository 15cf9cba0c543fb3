<script lang="ts">
  import type { VisitNotes } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";

  let { notes, keep }: { notes: VisitNotes; keep: (notes: VisitNotes) => Promise<void> } = $props();
  type Tick = VisitNotes["ticked"][number];
  const TICKS: { name: Tick; words: string }[] = [
    { name: "allergies-asked", words: "allergies asked" },
    { name: "medicines-looked-at", words: "medicines, vasoconstrictor looked at" },
    { name: "isolation", words: "isolation on" },
    { name: "eye-shields", words: "eye shields on" },
    { name: "consent", words: "plan agreed" },
  ];
  // The form begins with what was kept; it is made anew when another revision comes.
  // svelte-ignore state_referenced_locally
  let draft = $state($state.snapshot(notes) as VisitNotes);
  let kept = $state(true);
  const field = "min-h-11 min-w-0 rounded-md border border-rule bg-card px-2 text-base text-ink";
  const tick = (name: Tick, on: boolean) => {
    draft.ticked = on ? [...draft.ticked, name] : draft.ticked.filter((t) => t !== name);
    kept = false;
  };
</script>

<form
  class="flex flex-col gap-3 p-4"
  aria-label="Notes of the visit"
  oninput={() => (kept = false)}
  onsubmit={(e) => (e.preventDefault(), void keep($state.snapshot(draft) as VisitNotes))}
>
  <h2 class="text-lg font-semibold">Written down</h2>
  <div class="flex flex-col gap-1">
    {#each TICKS as one (one.name)}
      <label class="flex min-h-9 items-center gap-3 text-base"
        ><input
          type="checkbox"
          class="size-5"
          checked={draft.ticked.includes(one.name)}
          onchange={(e) => tick(one.name, e.currentTarget.checked)}
        />{one.words}</label
      >
    {/each}
  </div>
  {#each draft.materials as material, k (k)}
    <div class="grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)_auto] gap-2">
      <input class={field} aria-label="Material {k + 1}" placeholder="material" bind:value={material.what} />
      <input class={field} aria-label="Lot {k + 1}" placeholder="lot" bind:value={material.lot} />
      <Button
        size="slim"
        aria-label="Take out material {k + 1}"
        onclick={() => (draft.materials.splice(k, 1), (kept = false))}>−</Button
      >
    </div>
  {/each}
  <Button onclick={() => (draft.materials.push({ what: "", lot: "" }), (kept = false))}>Add a material</Button
  >
  <label class="flex flex-col gap-1 text-sm text-soft"
    >Shade<input class={field} maxlength="40" bind:value={draft.shade} /></label
  >
  <label class="flex flex-col gap-1 text-sm text-soft"
    >Taken off an opposing tooth: where, how much<input
      class={field}
      maxlength="300"
      bind:value={draft.adjusted}
    /></label
  >
  <label class="flex flex-col gap-1 text-sm text-soft"
    >Agreed by (code)<input class={field} maxlength="40" bind:value={draft.agreed_by} /></label
  >
  <Button type="submit" tone="main" disabled={kept}>{kept ? "Kept" : "Keep"}</Button>
</form>
