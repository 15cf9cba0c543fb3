<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import { MOST_HOLES, type Planning } from "../state.svelte";

  /** Where the holes for the pins go: chosen by the tooth's thickness, or pressed on its back. */
  let { model }: { model: Planning } = $props();
  const byHand = $derived(model.choices?.holes ?? null);
</script>

<fieldset class="flex flex-col gap-2">
  <legend class="pb-1 text-sm text-soft">Holes for the pins</legend>
  {#if model.pressing === "holes"}
    <p class="font-semibold" role="status">
      Press on the back of the tooth, at the ledge's level, where each hole shall go ({MOST_HOLES} at most): {model
        .stroke.length}.
    </p>
    <div class="flex flex-wrap gap-2">
      <Button tone="main" disabled={!model.stroke.length} onclick={() => model.useHoles()}>Use them</Button>
      <Button disabled={!model.stroke.length} onclick={() => model.undoPoint()}>Take back a hole</Button>
      <Button onclick={() => model.leaveDrawing()}>Leave</Button>
    </div>
  {:else}
    <div class="flex flex-wrap gap-2">
      <Button pressed={!byHand} onclick={() => model.change({ holes: null })}>Where most tooth stays</Button>
      <Button pressed={Boolean(byHand)} disabled={!model.plan} onclick={() => model.draw("holes")}
        >{byHand ? `${byHand.length} placed; place anew` : "Place them"}</Button
      >
    </div>
  {/if}
</fieldset>
