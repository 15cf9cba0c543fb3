<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import { NAMES } from "../movements.svelte";
  import { whoGuides } from "../bite";
  import type { Examine } from "../state.svelte";

  /** Room while the lower jaw moves: asked for with a tick, by average or entered angles, played on the sheet. */
  let { model }: { model: Examine } = $props();
  const jaw = $derived(model.movements);
  const LEADS_MM = 0.1; // less than this nobody sees
  const FIELDS = [
    { label: "condyle's path", average: "30", most: 70 },
    { label: "Bennett's angle", average: "15", most: 45 },
    { label: "front guidance", average: "teeth", most: 75 },
  ];
  /** Why nothing is told: of all movements the same. */
  const why = $derived(jaw.verdicts("protrusive").find((v) => v.zone === "overall")?.why);
  function entered(event: Event, index: number) {
    const field = event.currentTarget as HTMLInputElement;
    if (!field.checkValidity()) return void field.reportValidity();
    void jaw.enter(index, field.value.trim() === "" ? null : Number(field.value));
  }
</script>

{#if model.document?.clearance || jaw.asked}
  <details class="border-b border-rule px-4 py-2" open={jaw.asked}>
    <summary class="min-h-11 cursor-pointer py-2 text-base">While the jaw moves</summary>
    <label class="flex min-h-11 items-center gap-2 text-base">
      <input
        type="checkbox"
        class="size-5"
        checked={jaw.asked}
        disabled={model.judging || model.busy}
        onchange={(e) => void jaw.ask(e.currentTarget.checked)}
      />
      judge the room in movement too
    </label>
    {#if jaw.asked}
      <div class="grid grid-cols-3 gap-2 py-1">
        {#each FIELDS as field, index (field.label)}
          <label class="flex flex-col justify-end gap-0.5 text-sm text-soft"
            >{field.label}, °
            <input
              type="number"
              min="0"
              max={field.most}
              step="any"
              class="min-h-11 w-full rounded-md border border-rule bg-card px-2 text-base text-ink"
              placeholder={field.average}
              value={jaw.angles[index] ?? ""}
              disabled={model.judging || model.busy}
              onchange={(e) => entered(e, index)}
            /></label
          >
        {/each}
      </div>
      {#if jaw.all.length}
        <ul class="text-base" aria-label="Movements of the lower jaw">
          {#each jaw.all as movement (movement.movement)}
            {@const least = jaw.tightest(movement)}
            {@const verdict = jaw.verdicts(movement.movement).find((v) => v.zone === least?.zone)}
            <li class="flex items-center gap-2 border-t border-rule py-1.5">
              <span class="min-w-0 flex-1">
                {NAMES[movement.movement]}{#if least}:
                  <b
                    class="tabular-nums {verdict?.status === 'short' ? 'text-short' : ''} {verdict?.status ===
                    'within-uncertainty'
                      ? 'underline decoration-dotted'
                      : ''}">{least.low_mm.toFixed(2)} mm</b
                  >
                  <span class="text-sm text-soft"
                    >{verdict?.where}, {least.step_mm === 0
                      ? "teeth together"
                      : `${least.step_mm} mm on`}{verdict?.U == null
                      ? ""
                      : `, ± ${verdict.U.toFixed(2)}`}</span
                  >{:else}: <span class="text-soft">nothing slides there</span>{/if}
                {#if whoGuides(movement)}<span class="block text-sm">{whoGuides(movement)}</span>{/if}
                {#if (movement.leads_mm ?? 0) >= LEADS_MM}
                  <span class="block text-sm"
                    >this tooth leads: without it the jaw would close {movement.leads_mm!.toFixed(1)} mm further
                    here</span
                  >
                {/if}
              </span>
              <Button
                size="slim"
                aria-label="Play: {NAMES[movement.movement]}"
                disabled={jaw.playing !== null}
                onclick={() => void jaw.play(movement)}>Play</Button
              >
            </li>
          {/each}
        </ul>
        {#if jaw.step_mm !== null}
          <p class="flex items-center justify-between gap-2 pt-1 text-sm" role="status">
            <span
              >{jaw.step_mm === 0
                ? "It comes no nearer than with the teeth together."
                : `The opposing teeth stand ${jaw.step_mm.toFixed(2)} mm into the movement.`}</span
            >
            <Button size="slim" onclick={() => jaw.rest()}>Teeth together</Button>
          </p>
        {/if}
        <p class="pt-2 text-sm text-soft">
          {jaw.all[0]?.by_teeth
            ? "The teeth on the scans guide, the earlier tooth among them; teeth beyond the scans may part the jaws further."
            : "By the guidance entered, whatever the teeth do."} No joint is on a scan: what was not entered is
          tried over its usual range and is in the ±.
        </p>
      {:else if why && !model.busy}
        <p class="py-1 text-sm text-soft">Not measured: {why}.</p>
      {/if}
    {/if}
  </details>
{/if}
