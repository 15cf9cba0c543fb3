<script lang="ts">
  import { X } from "@lucide/svelte";
  import Button from "../../../ui/Button.svelte";
  import type { Examine } from "../state.svelte";

  /** The pins in a list: what each reads under the lens that is chosen, and how far two lie apart. */
  let { model }: { model: Examine } = $props();
  const pins = $derived(model.pins);
</script>

{#if pins.on || pins.all.length}
  <section class="border-b border-rule px-4 py-3" aria-label="Pins">
    <h2 class="pb-1 text-sm font-semibold text-soft">Pins</h2>
    {#if pins.all.length === 0}
      <p class="text-soft">
        Press on the tooth to set a pin. It reads whatever lens is chosen; two of them measure.
      </p>
    {/if}
    <ul class="flex flex-col gap-1">
      {#each pins.all as pin, k (k)}
        <li class="flex items-center gap-2">
          <Button
            size="tight"
            class="min-w-11"
            pressed={pins.ends.includes(k)}
            aria-label="Measure with pin {k + 1}"
            onclick={() => void pins.touch(k)}>{k + 1}</Button
          >
          <div class="min-w-0 flex-1">
            <input
              class="w-full rounded border border-transparent bg-transparent px-1 text-base hover:border-rule focus:border-rule"
              placeholder="name it"
              aria-label="Name of pin {k + 1}"
              value={pin.name}
              maxlength="60"
              onchange={(e) => void pins.name(k, e.currentTarget.value)}
            />
            <p class="px-1 text-sm text-soft tabular-nums">
              {model.pinTexts[k] || "this lens says nothing here"}
            </p>
          </div>
          <Button
            size="tight"
            aria-label="Take out pin {k + 1}"
            title="Take out"
            onclick={() => void pins.remove(k)}><X size={18} aria-hidden="true" /></Button
          >
        </li>
      {/each}
    </ul>
    {#if pins.tape}
      <p class="pt-2 text-base" role="status">
        Pins {pins.ends.map((k) => k + 1).join(" and ")}:
        <b class="tabular-nums">{pins.tape.straight_mm.toFixed(2)} mm</b>
        straight{#if pins.tape.along_mm !== null}, <b class="tabular-nums"
            >{pins.tape.along_mm.toFixed(2)} mm</b
          > along the surface{/if}
      </p>
    {:else if pins.all.length > 1 && pins.ends.length < 2}
      <p class="pt-2 text-sm text-soft">Press two numbers to measure between them.</p>
    {/if}
    {#if pins.error}<p class="pt-2 text-short" role="alert">{pins.error}</p>{/if}
  </section>
{/if}
