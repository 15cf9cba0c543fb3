<script lang="ts">
  import { onMount } from "svelte";
  import type { Scan } from "../../../api/client";
  import type { Vec } from "../../../sheet/vectors";
  import Button from "../../../ui/Button.svelte";
  import { Pointing } from "../pointing.svelte";
  import type { Intake } from "../state.svelte";
  import PointView from "./PointView.svelte";

  let { model, earlier, prep, begin }: { model: Intake; earlier: Scan; prep: Scan; begin: boolean } =
    $props();
  // The page is keyed by attempt, and the list by scan.
  // svelte-ignore state_referenced_locally
  const role = earlier.role as "preop" | "mockup";
  // svelte-ignore state_referenced_locally
  const pointing = new Pointing(model.detail?.pairs[role] ?? null);
  // svelte-ignore state_referenced_locally
  let open = $state(begin);
  let whole: HTMLDetailsElement;
  onMount(() => {
    if (begin) whole.scrollIntoView({ block: "start" });
  });
  const title = role === "preop" ? "scan before cutting" : "mock-up";
</script>

<details bind:this={whole} class="rounded-lg border border-rule bg-card px-4 py-3" bind:open>
  <summary class="min-h-8 cursor-pointer text-lg">
    Point at the same places on the {title} and on the preparation
    {#if pointing.kept}<b>· {pointing.kept} places kept</b>{/if}
  </summary>
  {#if open}
    <p class="pt-1 text-soft">
      Only where the two scans do not find together. Choose three places or more that were not cut and lie
      well apart: cusp tips of other teeth, say. A millimetre is near enough. Drag to turn, press to point.
    </p>
    <div class="grid grid-cols-2 gap-3 pt-3">
      <PointView
        {title}
        hash={earlier.light_hash}
        places={pointing.theirs}
        next={pointing.next === "theirs"}
        press={(place: Vec) => pointing.press("theirs", place)}
      />
      <PointView
        title="preparation"
        hash={prep.light_hash}
        places={pointing.ours}
        next={pointing.next === "ours"}
        press={(place: Vec) => pointing.press("ours", place)}
      />
    </div>
    <div class="flex flex-wrap items-center gap-3 pt-3">
      <Button
        tone="main"
        disabled={!pointing.enough}
        onclick={() => void model.pointOut(role, pointing.pairs).then(() => pointing.keep())}
        >Keep these places</Button
      >
      <Button disabled={pointing.empty} onclick={() => pointing.back()}>Back one</Button>
      <Button
        disabled={!pointing.kept}
        onclick={() => void model.pointOut(role, { theirs: [], ours: [] }).then(() => pointing.forget())}
        >Forget them</Button
      >
      <span class="text-soft" role="status">{pointing.says}</span>
    </div>
  {/if}
</details>
