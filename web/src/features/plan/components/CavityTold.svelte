<script lang="ts">
  import type { PlanDocument } from "../../../api/client";

  let { cavity }: { cavity: NonNullable<PlanDocument["cavity"]> } = $props();
  const mm = (value: number | null | undefined) => (value == null ? "not told" : value.toFixed(1));
  const thin = (cusp: (typeof cavity.cusps)[number]) =>
    cusp.base_mm != null && cusp.needed_mm != null && cusp.base_mm < cusp.needed_mm;
</script>

<section class="border-b border-rule px-4 py-3" aria-label="Cusps">
  <h2 class="text-lg font-semibold">Cusps</h2>
  <table class="w-full">
    <thead class="text-left text-sm text-soft">
      <tr>
        <th class="font-normal">cusp</th>
        <th class="text-right font-normal">base, mm</th>
        <th class="text-right font-normal">least</th>
        <th class="text-right font-normal">covering takes</th>
      </tr>
    </thead>
    <tbody>
      {#each cavity.cusps as cusp (cusp.cusp)}
        <tr class={thin(cusp) ? "font-semibold text-short" : ""}>
          <td>{cusp.cusp}</td>
          <td class="text-right">{cusp.covered ? "covered" : mm(cusp.base_mm)}</td>
          <td class="text-right">{cusp.covered ? "" : mm(cusp.needed_mm)}</td>
          <td class="text-right">{cusp.cover_mm3.toFixed(0)} mm³</td>
        </tr>
      {/each}
    </tbody>
  </table>
  <p class="text-sm text-soft">
    One school covers what is thin, another everything: to cover or to keep is the dentist's.
  </p>
</section>
<section class="border-b border-rule px-4 py-3">
  <h2 class="text-lg font-semibold">What would come of it</h2>
  <dl class="grid grid-cols-[1fr_auto] gap-x-3">
    <dt>depth, least and middle</dt>
    <dd class="text-right font-semibold">{mm(cavity.depth_low_mm)} · {mm(cavity.depth_median_mm)} mm</dd>
    {#if cavity.isthmus_mm != null}
      <dt>isthmus</dt>
      <dd class="text-right font-semibold">
        {mm(cavity.isthmus_mm)} mm{cavity.isthmus_share == null
          ? ""
          : `, ${(100 * cavity.isthmus_share).toFixed(0)} % between the tips`}
      </dd>
    {/if}
    <dt>walls lean outward</dt>
    <dd class="text-right font-semibold">{cavity.divergence_deg.toFixed(0)}° each</dd>
    {#each cavity.boxes as box (box.side)}
      <dt>{box.side} box, deep · under the floor · to the neighbour</dt>
      <dd class="text-right font-semibold">
        {mm(box.depth_mm)} · {mm(box.below_floor_mm)} · {mm(box.contact_clearance_mm)}
      </dd>
    {/each}
  </dl>
</section>
