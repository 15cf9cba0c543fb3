<script lang="ts">
  import { onDestroy } from "svelte";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Progress from "../../ui/Progress.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { siteOf } from "../site";
  import Abutment from "./components/Abutment.svelte";
  import Planned from "./components/Planned.svelte";
  import SpanSheet from "./components/SpanSheet.svelte";
  import Whole from "./components/Whole.svelte";
  import { answerOf } from "./draft";
  import { PlannedSpan } from "./planned.svelte";
  import { Span } from "./state.svelte";

  let { caseId }: { caseId: string } = $props();
  /** Whether the plan from before cutting is looked at, or what was measured. */
  let before = $state(false);
  const model = new Span();
  const planned = new PlannedSpan();
  void (async () => {
    await model.load(caseId);
    if (!model.detail) return;
    await planned.load(model.detail);
    if (!model.detail.scans.some((scan) => scan.role === "prep")) before = true;
  })();
  onDestroy(() => {
    model.leave();
    planned.leave();
  });
  const readings = $derived(
    Object.fromEntries(
      (model.case?.sites ?? []).flatMap((site) =>
        site.readings
          .filter((one) => one.attempt_id === model.detail?.attempt_id)
          .map((one) => [site.tooth, one.id]),
      ),
    ),
  );
  const attempt = $derived(model.detail?.id ?? "");
  const lingual = $derived(siteOf(model.case, attempt)?.lingual_word ?? "lingual");
</script>

<div class="grid h-page min-h-[40rem] grid-rows-[auto_minmax(0,1fr)_auto]">
  <header class="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-card px-4 py-2">
    <Home />
    {#if model.case}
      <h1 class="text-lg font-normal">
        <b>{model.case.code}</b> · teeth <b>{model.case.sites.map((s) => s.tooth).join(", ")}</b> · as one bridge
      </h1>
      <div class="flex gap-2" role="group" aria-label="Before cutting, or after">
        <Button size="slim" pressed={before} onclick={() => (before = true)}>Planned</Button>
        <Button size="slim" pressed={!before} onclick={() => (before = false)}>Measured</Button>
      </div>
      <div class="ml-auto flex gap-2">
        <Button onclick={() => router.go(`/case/${caseId}${attempt ? `?attempt=${attempt}` : ""}`)}
          >One by one</Button
        >
        <HelpAndTheme />
      </div>
    {/if}
  </header>
  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_25rem]">
    <div class="flex min-h-0 flex-col">
      {#if before}
        <div class="relative min-h-0 flex-1">
          <SpanSheet
            model={planned}
            said="The abutments before cutting, their planned preparations inside them"
          />
        </div>
      {:else if model.bridge && model.path}
        <div class="relative min-h-56 flex-1 border-b border-rule">
          <SpanSheet {model} said="The abutments along one path, with the room for pontics and connectors" />
        </div>
        <div class="max-h-[58%] overflow-y-auto p-3">
          <div class="flex flex-wrap items-baseline justify-between gap-3 pb-3">
            <p class="text-lg" aria-live="polite">
              Along the path shown the least draft is
              <b class={model.least !== null && model.least < 0 ? "text-short" : ""}
                >{model.least === null ? "not known" : `${model.least.toFixed(1)}°`}</b
              >{model.tried ? ", tried" : ", the best"}.
            </p>
            <Button size="slim" disabled={!model.tried} onclick={() => model.tilt(null)}
              >Back to the best path</Button
            >
          </div>
          <div class="grid grid-cols-[repeat(auto-fit,minmax(17rem,1fr))] gap-4">
            {#each model.bridge.abutments as abutment, k (abutment.tooth)}
              <Abutment
                {abutment}
                {lingual}
                rows={model.drafts[k] ?? []}
                path={model.path}
                tilted={(path) => model.tilt(path)}
              />
            {/each}
          </div>
          <p class="pt-3 text-sm text-soft">
            Each rose shows how far the walls of a tooth lean from the path: inside the strong ring a wall
            leans back. The orange needle is the one path, the grey dot the tooth's own. Drag the needle on
            any tooth; all follow, and what leans back is hatched on the teeth.
          </p>
        </div>
      {:else if model.asked && !model.busy}
        <div class="p-4">
          <p class="pb-3 text-lg">The teeth of this case, measured as the abutments of one bridge.</p>
          <Button tone="main" onclick={() => model.make()}>Measure together</Button>
        </div>
      {/if}
    </div>
    <aside class="min-h-0 overflow-y-auto border-l border-rule bg-card">
      {#if before}
        <Planned model={planned} {caseId} {readings} />
      {:else}
        {#if model.error}<div class="p-3"><Notice tone="error">{model.error}</Notice></div>{/if}
        {#if model.busy && model.job}
          <Progress share={model.job.share} text={model.job.text} cancel={() => model.cancel()} />
        {:else if model.stale}
          <div class="flex flex-col gap-3 p-4">
            <Notice>Something has changed since they were measured together.</Notice>
            <Button tone="main" onclick={() => model.make()}>Measure together again</Button>
          </div>
        {/if}
        {#if model.bridge}
          <p
            role="status"
            class="border-b border-l-8 border-rule px-4 py-3 text-xl font-semibold {model.bridge.path.exists
              ? 'border-l-pine'
              : 'border-l-short text-short'}"
          >
            {answerOf(model.bridge)}
          </p>
          <Whole bridge={model.bridge} />
        {/if}
      {/if}
    </aside>
  </main>
  <footer class="border-t border-rule bg-card px-4 py-1.5 text-right text-sm font-semibold">
    The dentist decides. Local rules and the manufacturer's instructions come first. Surfaces only: pulp,
    decay and cracks are not seen.
  </footer>
</div>
