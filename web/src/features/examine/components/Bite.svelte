<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import { CHANGES, inShort, listed, toothOf } from "../bite";
  import type { Examine } from "../state.svelte";
  import ContactSign from "./ContactSign.svelte";

  /** How the other teeth meet: contacts before and after, whether the record holds, what a raised bite asks of them. */
  let { model }: { model: Examine } = $props();
  const contacts = $derived(model.document?.contacts ?? null);
  const support = $derived(model.document?.clearance?.bite.support ?? null);
  // By so much deeper, and so far aside, before a shift is told (core/measure/closing.py).
  const [DEEPER_MM, ASIDE_MM] = [0.2, 0.3];
  const shift = $derived(model.document?.clearance?.bite.shift ?? null);
  const shifted = $derived(
    shift && shift.deeper_mm > DEEPER_MM && Math.hypot(...shift.by) > ASIDE_MM ? shift : null,
  );
  const others = $derived(model.document?.planned.raise?.others ?? []);
  const changed = $derived(contacts?.some((c) => !c.own && !["kept", "alone"].includes(c.change)) ?? false);
  let opened = $state(false);
  const area = (mm2: number | undefined) => (mm2 === undefined ? "–" : mm2.toFixed(1));
</script>

{#if contacts?.length}
  <details
    class="border-b border-rule px-4 py-2"
    open={changed}
    ontoggle={(e) => (opened = e.currentTarget.open)}
  >
    <summary class="min-h-11 cursor-pointer py-2 text-base {changed ? 'font-bold' : ''}"
      >{inShort(contacts)}</summary
    >
    <table class="w-full text-sm" aria-label="Contacts of the other teeth">
      <thead>
        <tr class="text-left text-soft">
          <th class="font-normal">tooth</th><th class="font-normal">contact</th>
          <th class="pl-2 text-right font-normal">before</th><th class="pl-2 text-right font-normal"
            >now, mm²</th
          >
        </tr>
      </thead>
      <tbody>
        {#each listed(contacts) as contact, index (index)}
          <tr class="border-t border-rule">
            <th class="py-1.5 text-left font-normal">{toothOf(contact)}</th>
            <td
              ><span class="inline-flex items-center gap-1.5"
                ><ContactSign change={contact.change} size={16} />{CHANGES[contact.change]}</span
              ></td
            >
            <td class="pl-2 text-right tabular-nums">{area(contact.before?.mm2)}</td>
            <td
              class="pl-2 text-right tabular-nums"
              title={contact.after
                ? `${contact.after.least_mm2.toFixed(1)} to ${contact.after.most_mm2.toFixed(1)} for all that the bite record leaves open`
                : ""}>{area(contact.after?.mm2)}</td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if support}
      <p class="pt-2 text-sm">
        {#if support.stands}The record rests on {support.places} places, {support.span_mm.toFixed(0)} mm apart.{:else}<b
            >The record rests on {support.places}
            {support.places === 1 ? "place" : "places"} only</b
          >: check with foil at three places.{/if}
      </p>
    {/if}
    {#if shifted}
      <p class="pt-2 text-sm">
        The bite may be recorded shifted: with the opposing teeth
        <b>{Math.hypot(...shifted.by).toFixed(1)} mm</b> aside the others would close
        <b>{shifted.deeper_mm.toFixed(1)} mm</b> deeper.
      </p>
      <Button
        size="slim"
        class="mt-2"
        pressed={model.opposing.closed}
        onclick={() => void model.opposing.close(!model.opposing.closed)}
        >{model.opposing.closed ? "Closed there" : "Show them closed there"}</Button
      >
    {/if}
    <p class="pt-1 text-sm text-soft">
      Nearer than 0.1 mm with the teeth together. What the spread of a bite record explains is no change;
      teeth are named by an average arch.
    </p>
    {#if opened && model.lens !== "space"}
      <Button size="slim" class="mt-2" onclick={() => (void model.setLens("space"), model.look("occlusal"))}
        >Show them on the teeth</Button
      >
    {/if}
  </details>
{/if}
{#if others.length}
  <details class="border-b border-rule px-4 py-2" open>
    <summary class="min-h-11 cursor-pointer py-2 text-base">The other teeth, with the bite raised</summary>
    <table class="w-full text-sm" aria-label="The other teeth, with the bite raised">
      <thead>
        <tr class="text-left text-soft">
          <th class="font-normal">tooth, about</th>
          <th class="pl-2 text-right font-normal">jaw opens</th>
          <th class="pl-2 text-right font-normal">first meets after</th>
        </tr>
      </thead>
      <tbody>
        {#each others as row (row.tooth)}
          <tr class="border-t border-rule tabular-nums">
            <th class="py-1.5 text-left font-normal">{row.tooth}</th>
            <td class="pl-2 text-right">{row.opening_mm.toFixed(1)} mm</td>
            <td class="pl-2 text-right">{row.gap_mm.toFixed(1)} mm</td>
          </tr>
        {/each}
      </tbody>
    </table>
    <p class="pt-2 text-sm text-soft">
      Built up by so much, straight along the tooth, each would meet again. Average geometry: plan it on
      mounted models or a measured hinge.
    </p>
  </details>
{/if}
