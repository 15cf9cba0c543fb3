<script lang="ts">
  import { untrack } from "svelte";
  import type { Examine } from "../state.svelte";

  /** What decides over a child's crown: the bulge, the ledge, and every size of the set laid over. */
  let { model }: { model: Examine } = $props();
  const child = $derived(model.document?.child ?? null);
  const mm = (value: number | null | undefined) => (value == null ? "–" : `${value.toFixed(2)} mm`);
  const plain = (value: number | null) => (value == null ? "–" : value.toFixed(2));
  const ledge = $derived(
    !child
      ? ""
      : child.ledge_mm > 0
        ? `${child.ledge_is_least ? "at least " : ""}${mm(child.ledge_mm)}`
        : model.document?.verdicts.some((v) => v.criterion === "ledge" && v.status === "not-measured")
          ? "not seen well enough"
          : "none seen",
  );
  const says = (size: string) =>
    [
      size === child?.first_try ? "the tooth's own width" : "",
      size === child?.size ? "smallest that goes on" : "",
    ]
      .filter(Boolean)
      .join(", ");
  // Judged anew, by another path or another set: the crown that lies there is laid as it goes now.
  $effect(() => {
    void model.result;
    const size = untrack(() => model.laid.size);
    if (size) void untrack(() => model.laid.lay(size));
  });
</script>

{#if child}
  <details class="border-b border-rule px-4 py-2" open>
    <summary class="min-h-11 cursor-pointer py-2 text-base">Crowns of the set, laid over</summary>
    <table class="w-full text-sm" aria-label="Sizes of the set">
      <thead>
        <tr class="text-left text-soft">
          <th class="font-normal">size, width in mm</th>
          <th class="pl-2 text-right font-normal">binds</th>
          <th class="pl-2 text-right font-normal">sprung over</th>
          <th class="pl-2 text-right font-normal">stands proud</th>
        </tr>
      </thead>
      <tbody>
        {#each child.fits as fit (fit.size)}
          <tr class="border-t border-rule {fit.goes_on ? '' : 'text-soft'}">
            <th class="text-left font-normal">
              <button
                class="min-h-11 w-full cursor-pointer px-1.5 py-1 text-left {model.laid.size === fit.size
                  ? 'bg-pine text-pine-ink'
                  : 'hover:bg-rule'}"
                aria-pressed={model.laid.size === fit.size}
                aria-label="Lay size {fit.size} over the tooth"
                onclick={() => model.laid.toggle(fit.size)}
              >
                <b>{fit.size}</b>, {fit.mesiodistal_mm.toFixed(1)}
                {#if says(fit.size)}<span class="block text-xs">{says(fit.size)}</span>{/if}
              </button>
            </th>
            <td class="pl-2 text-right tabular-nums">{plain(fit.binds_mm)}</td>
            <td class="pl-2 text-right tabular-nums">{plain(fit.snap_mm)}</td>
            <td class="pl-2 text-right tabular-nums"
              >{fit.proud_mm === null ? (fit.goes_on ? "not known" : "not on") : plain(fit.proud_mm)}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if model.laid.error}<p class="py-1.5 text-sm text-short" role="alert">{model.laid.error}</p>{/if}
    <p class="py-1.5 text-sm">
      Press a size: it is laid over the tooth as far on as it goes. Where the tooth comes through, it binds; a
      ball stands where it binds most.
    </p>
    <p class="pb-1.5 text-sm">
      Ledge: {ledge}. Bulge below the contour: {mm(child.cervical_undercut_mm)}.
    </p>
    <p class="pb-1 text-sm text-soft">
      A simulated set: put the maker's own widths in before a size is trusted.
    </p>
  </details>
{/if}
