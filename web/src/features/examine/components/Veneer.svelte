<script lang="ts">
  import type { Examine } from "../state.svelte";
  import { THIRDS } from "../unlike";

  /** What a veneer's preparation is: its edge, where its line ends, and by thirds what the veneer and the tooth have. */
  let { model }: { model: Examine } = $props();
  const veneer = $derived(model.document?.veneer ?? null);
  const FORMS = {
    butt: "butt",
    wrap: "wrapped over the edge",
    feather: "feather: the edge was not shortened",
    window: "window: it ends on the face",
  };
  const lingual = $derived(model.site?.lingual_word ?? "lingual");
  const mm = (value: number | null | undefined, digits = 1) =>
    value == null ? "–" : `${value.toFixed(digits)} mm`;
  const median = (table: "reduction" | "tooth_removed", third: string) =>
    model.document?.[table]?.zones.find((z) => z.zone === `facial/${third}`)?.median_mm;
  const marked = (criterion: string, zone: string) => {
    const of = (status: string) =>
      model.document?.verdicts.some(
        (v) => v.criterion === criterion && v.zone === zone && v.status === status,
      );
    if (of("short")) return "font-bold text-short";
    return of("over") ? "font-bold text-over" : "";
  };
  const enamel = (third: string) => veneer?.enamel.find((e) => e.zone === `facial/${third}`)?.likely_left;
  const ends = (past: number | null) => {
    if (past === null) return "contact not known";
    return past < 0 ? `${mm(-past)} short of the contact` : `${mm(past)} past the contact`;
  };
</script>

{#if veneer}
  <details class="border-b border-rule px-4 py-2" open>
    <summary class="min-h-11 cursor-pointer py-2 text-base">The veneer's room and edge</summary>
    <table class="w-full text-sm" aria-label="Face by thirds">
      <thead>
        <tr class="text-left text-soft">
          <th class="font-normal">third</th>
          <th class="pl-2 text-right font-normal"
            >{model.document?.reduction?.reference === "mockup" ? "to the mock-up" : "room"}</th
          >
          <th class="pl-2 text-right font-normal">off the tooth</th>
          <th class="pl-2 text-right font-normal">enamel</th>
        </tr>
      </thead>
      <tbody>
        {#each THIRDS as third (third)}
          <tr class="border-t border-rule">
            <th class="py-1.5 text-left font-normal first-letter:uppercase">{third}</th>
            <td class="pl-2 text-right tabular-nums {marked('reduction', `facial/${third}`)}"
              >{mm(median("reduction", third), 2)}</td
            >
            <td class="pl-2 text-right tabular-nums {marked('tooth-removed', `facial/${third}`)}"
              >{mm(median("tooth_removed", third), 2)}</td
            >
            <td class="pl-2 text-right"
              >{enamel(third) == null ? "not known" : enamel(third) ? "likely left" : "likely through"}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if veneer.incisal}
      <p class="pt-2 text-sm">
        Incisal end: <b>{FORMS[veneer.incisal.form]}</b>{#if veneer.incisal.reduction_mm !== null},
          <span class={marked("incisal-reduction", "incisal-edge")}>{mm(veneer.incisal.reduction_mm)}</span> to
          the planned edge{/if}{#if veneer.incisal.angle_deg !== null}, at {veneer.incisal.angle_deg.toFixed(
            0,
          )}°{/if}{#if veneer.incisal.wrap_length_mm !== null}, {mm(veneer.incisal.wrap_length_mm)} long{/if}.
      </p>
    {/if}
    <ul class="text-sm">
      {#each veneer.contact_ending as ending (ending.side)}
        {@const scoop = veneer.scoops.find((s) => s.side === ending.side)}
        <li>
          <span class="inline-block first-letter:uppercase">{ending.side}</span>:
          <span class={marked("contact-ending", `proximal/${ending.side}`)}
            >{ends(ending.past_contact_mm)}</span
          >{#if scoop}; ledge
            <span class={marked("scoop", `proximal/${ending.side}`)}>{mm(scoop.width_mm)}</span> wide{/if}
        </li>
      {/each}
    </ul>
    <p class="pt-2 text-sm text-soft">
      A scan does not see enamel: what is usual there is compared with what was taken off. On the {lingual} side
      only what wraps over the edge is judged.
    </p>
    <label class="flex min-h-11 items-center gap-2 text-base">
      <input
        type="checkbox"
        class="size-5"
        checked={model.site?.dark ?? false}
        disabled={model.judging || model.busy}
        onchange={(e) => void model.terms.setFacts({ dark: e.currentTarget.checked })}
      />
      the tooth is dark: it needs more room
    </label>
  </details>
{/if}
