<script lang="ts">
  import { depthText, ledgesTold } from "../document";
  import type { Planning } from "../state.svelte";
  import CavityTold from "./CavityTold.svelte";
  import ChannelsTold from "./ChannelsTold.svelte";
  import ChildTold from "./ChildTold.svelte";

  let { model }: { model: Planning } = $props();
  const plan = $derived(model.plan);
  const told = (value: number | null | undefined, unit: string) =>
    value == null ? "not seen" : `${value.toFixed(unit === "°" ? 0 : 1)}${unit}`;
</script>

{#if plan}
  {#if plan.raise}
    <section class="border-b border-rule px-4 py-3">
      <h2 class="font-semibold">Raised bite</h2>
      <p>
        {plan.raise.tooth_mm.toFixed(1)} mm at this tooth (± {(2 * plan.raise.u_mm).toFixed(1)}), {plan.raise.first_molar_mm.toFixed(
          1,
        )} at the first molars, {plan.raise.incisor_mm.toFixed(1)} at the incisors.
      </p>
      <p class="text-sm">
        By tooth, from the front: {Object.values(plan.raise.by_place_mm)
          .map((v) => v.toFixed(1))
          .join(" · ")} mm ({plan.raise.hinge.entered ? "hinge as entered" : "average hinge"}).
      </p>
      <p class="text-sm text-soft">
        The rule of one to three would say {plan.raise.rule_of_thumb_incisor_mm.toFixed(1)} in front: {plan
          .raise.why_they_differ}.
      </p>
    </section>
  {/if}
  {#each plan.ways_out as way (way.criterion)}
    <section class="border-b border-rule border-l-4 border-l-short px-4 py-3">
      <h2 class="font-semibold text-short">
        The plan itself falls short: {way.where === "overall"
          ? ""
          : `${way.where}, `}{way.criterion.replaceAll("-", " ")}
        {way.value?.toFixed(1)}
        {way.unit} (limit {way.limit?.toFixed(1)})
      </h2>
      <p>{way.do[0]?.toUpperCase()}{way.do.slice(1)}.</p>
    </section>
  {/each}
  {#if plan.incisal}
    <p class="border-b border-rule px-4 py-2">Depths count from {plan.earlier.space_to}.</p>
  {/if}
  <ul>
    {#each plan.sites as site, index (site.zone)}
      <li>
        <button
          type="button"
          class="flex w-full items-start gap-3 border-b border-rule px-4 py-2 text-left {index ===
          model.chosen
            ? 'bg-pine/15'
            : ''}"
          onclick={() => model.choose(index)}
        >
          <span class="w-14 shrink-0 text-right text-3xl font-bold">{depthText(site)}</span>
          <span class="min-w-0">
            <span class="block text-lg font-semibold">{site.where}</span>
            {#if site.bur}<span class="block">{site.bur.title} ({site.bur.size}): {site.bur.words}</span>{/if}
            {#if site.gap_mm > 0}<span class="block text-sm text-soft"
                >{site.gap_mm.toFixed(1)} of {site.target_mm.toFixed(1)} mm is there already</span
              >{/if}
            <span class="block text-sm text-soft"
              >{site.why ||
                `needs ${site.min_mm.toFixed(1)}, target ${site.target_mm.toFixed(1)} mm`}{site.most_mm ===
              null
                ? ""
                : `; not beyond ${site.most_mm.toFixed(1)}`}</span
            >
          </span>
        </button>
      </li>
    {/each}
  </ul>
  {#if plan.cavity}<CavityTold cavity={plan.cavity} />{/if}
  {#if plan.child}<ChildTold child={plan.child} />{/if}
  {#if plan.channels?.length}<ChannelsTold {plan} show={(at) => model.see(at)} />{/if}
  {#if plan.finish_line.sides.length}
    <section class="border-b border-rule px-4 py-3">
      <h2 class="text-lg font-semibold">Finish line</h2>
      {#each ledgesTold(plan.finish_line.sides) as ledge (ledge.side)}
        <p class="mt-1">
          <b class="text-xl">{ledge.width_mm.toFixed(1)}</b> mm {ledge.side}, {ledge.forms
            .join(" or ")
            .replaceAll("-", " ") || "form left open"}
        </p>
        <p class="text-sm text-soft">
          {ledge.bur
            ? `${ledge.bur.title} (${ledge.bur.size}): ${ledge.bur.words}; ${ledge.bur.beyond}`
            : "no bur of the tray is wide enough"}
        </p>
      {/each}
    </section>
  {/if}
  {#if plan.predicted}
    <section class="border-b border-rule px-4 py-3">
      <h2 class="text-lg font-semibold">What would come of it</h2>
      <dl class="grid grid-cols-[1fr_auto] gap-x-3">
        <dt>convergence, faciolingual</dt>
        <dd class="text-right font-semibold">{told(plan.predicted.faciolingual_deg, "°")}</dd>
        <dt>convergence, mesiodistal</dt>
        <dd class="text-right font-semibold">{told(plan.predicted.mesiodistal_deg, "°")}</dd>
        <dt>wall height</dt>
        <dd class="text-right font-semibold">{told(plan.predicted.wall_height_mm, " mm")}</dd>
        <dt>left at the finish line</dt>
        <dd class="text-right font-semibold">
          {told(plan.predicted.remaining_mm, "")} of {told(plan.predicted.neck_mm, " mm")}
        </dd>
      </dl>
    </section>
  {:else if plan.why_no_target}
    <p class="px-4 py-3 text-soft">No target surface: {plan.why_no_target}.</p>
  {/if}
  {#each plan.warnings as warning (warning)}
    <p class="border-b border-rule px-4 py-2">{warning}</p>
  {/each}
{/if}
