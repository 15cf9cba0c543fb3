<script lang="ts">
  import { words } from "../../vocabulary.svelte";
  import type { Planning } from "../state.svelte";

  /** What is known and no scan shows: a tick each, and in words what it changes. Never a diagnosis. */
  let { model }: { model: Planning } = $props();
  const told = $derived(model.site?.facts ?? []);
  const every = $derived(words.all?.facts ?? []);

  function tick(name: string, on: boolean) {
    void model.setFacts({ facts: on ? [...told, name] : told.filter((one) => one !== name) });
  }
</script>

<fieldset class="flex flex-col gap-1">
  <legend class="text-sm text-soft">What no scan shows</legend>
  {#each every as fact (fact.value)}
    <label class="flex min-h-10 items-center gap-2 text-base">
      <input
        type="checkbox"
        class="size-5"
        checked={told.includes(fact.value)}
        disabled={model.busy}
        onchange={(e) => tick(fact.value, e.currentTarget.checked)}
      />
      {fact.label}
    </label>
    {#if told.includes(fact.value)}<p class="pb-1 pl-7 text-sm">{fact.hint}</p>{/if}
  {/each}
</fieldset>
