<script lang="ts">
  import type { Examine } from "../state.svelte";

  /** What there is to decide, cusp by cusp: how it stands, what it needs, what covering it would cost. */
  let { model }: { model: Examine } = $props();
  const cavity = $derived(model.document?.cavity ?? null);
  const share = $derived(cavity?.isthmus?.share ?? null);
  const most = $derived(model.standard?.bounds["isthmus-share"]?.max ?? null);
  const verdict = (cusp: string) =>
    model.document?.verdicts.find((v) => v.criterion === "cusp-thickness" && v.zone === cusp);
  const called = (cusp: string) => cusp.replace("lingual", model.site?.lingual_word ?? "lingual");
</script>

{#if cavity?.cusps.length}
  <details class="border-b border-rule px-4 py-2" open>
    <summary class="min-h-11 cursor-pointer py-2 text-base">Decide, cusp by cusp</summary>
    <table class="w-full text-sm" aria-label="Decide, cusp by cusp">
      <thead>
        <tr class="text-left text-soft">
          <th class="font-normal">cusp</th><th class="pl-2 text-right font-normal">base</th>
          <th class="pl-2 text-right font-normal">needs</th><th class="pl-2 text-right font-normal"
            >to cover it</th
          >
        </tr>
      </thead>
      <tbody>
        {#each cavity.cusps as cusp (cusp.cusp)}
          {@const found = verdict(cusp.cusp)}
          <tr class="border-t border-rule">
            <th class="py-1.5 text-left font-normal first-letter:uppercase">{called(cusp.cusp)}</th>
            {#if cusp.covered}
              <td class="pl-2 text-right text-soft" colspan="3">covered</td>
            {:else}
              <td
                class="pl-2 text-right tabular-nums {found?.status === 'short' ? 'font-bold text-short' : ''}"
                >{cusp.base_mm === null ? "–" : `${cusp.base_mm.toFixed(1)} mm`}</td
              >
              <td class="pl-2 text-right text-soft tabular-nums"
                >{found?.limit == null ? "–" : `${found.limit.toFixed(1)} mm`}</td
              >
              <td class="pl-2 text-right tabular-nums"
                >{cusp.cover_mm3 == null ? "–" : `about ${cusp.cover_mm3.toFixed(0)} mm³`}</td
              >
            {/if}
          </tr>
        {/each}
      </tbody>
    </table>
    {#if share !== null}
      <p class="pt-2 text-sm">
        The isthmus takes <b>{(share * 100).toFixed(0)} %</b> of the cusps' distance{#if most !== null};
          beyond {(most * 100).toFixed(0)} % one school covers the cusps{/if}.
      </p>
    {/if}
    <p class="pt-2 text-sm text-soft">
      One school keeps every cusp that is thick enough; the other covers all: simpler, safer, easier to make,
      and it costs the tooth above. Cracks and the bite's forces are not seen on a scan.
    </p>
    <label class="flex min-h-11 items-center gap-2 text-base">
      <input
        type="checkbox"
        class="size-5"
        checked={model.site?.root_filled ?? false}
        disabled={model.judging || model.busy}
        onchange={(e) => void model.terms.setFacts({ root_filled: e.currentTarget.checked })}
      />
      the tooth is root-filled
    </label>
  </details>
{/if}
