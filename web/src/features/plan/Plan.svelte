<script lang="ts">
  import { FlipHorizontal2, Layers, Timer } from "@lucide/svelte";
  import { router } from "../../router.svelte";
  import SurveyPlan from "../../sheet/SurveyPlan.svelte";
  import { vec } from "../../sheet/vectors";
  import { VIEW_KEYS } from "../../sheet/views";
  import Button from "../../ui/Button.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Progress from "../../ui/Progress.svelte";
  import Notice from "../../ui/Notice.svelte";
  import ToolRow, { type Tool } from "../../ui/ToolRow.svelte";
  import { plainKey } from "../../ui/keys";
  import { theme } from "../../ui/theme.svelte";
  import Choices from "./components/Choices.svelte";
  import Depths from "./components/Depths.svelte";
  import Materials from "./components/Materials.svelte";
  import Order from "./components/Order.svelte";
  import PlanSheet from "./components/PlanSheet.svelte";
  import { Planning } from "./state.svelte";

  let { caseId }: { caseId: string } = $props();
  const model = new Planning();
  type Tab = "choose" | "materials" | "depths" | "order";
  let tab = $state<Tab>("depths");
  const shown = $derived<Tab>(model.plan || tab === "materials" ? tab : "choose");
  const TABS: { name: Tab; title: string }[] = [
    { name: "choose", title: "Choose" },
    { name: "materials", title: "Material" },
    { name: "depths", title: "Depths" },
    { name: "order", title: "Order" },
  ];
  const lingual = $derived(model.site?.lingual_word ?? "lingual");
  const tools = $derived<Tool[]>([
    {
      title: "Mirror",
      hint: "As seen in a mouth mirror (X)",
      icon: FlipHorizontal2,
      on: model.mirrored,
      press: () => (model.mirrored = !model.mirrored),
    },
    ...(model.targetHash
      ? [
          {
            title: "Planned inside",
            hint: "The planned preparation inside the tooth, or the tooth as it is",
            icon: Layers,
            on: model.showTooth,
            press: () => void model.toggleTooth(),
          },
        ]
      : []),
  ]);

  function key(event: KeyboardEvent) {
    const press = plainKey(event);
    if (press === null) return;
    const view = VIEW_KEYS[press];
    if (view) model.look(view);
    else if (press === "n") model.choose(((model.chosen + 1) % (model.plan?.sites.length ?? 1)) | 0);
    else if (press === "x") model.mirrored = !model.mirrored;
    else if (press === "t") theme.toggle();
    else return;
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={key} />

<div class="grid h-page grid-rows-[auto_1fr_auto]">
  <header class="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-card px-4 py-2">
    <Home />
    {#if model.case && model.site}
      <h1 class="text-lg font-normal">
        <b>{model.case.code}</b> · tooth <b>{model.site.tooth}</b> · plan before cutting
      </h1>
      <div class="ml-auto flex gap-2">
        {#if model.plan && model.detail}
          <a
            class="inline-flex min-h-11 items-center rounded-md border border-rule bg-card px-4 text-ink no-underline"
            href="/api/readings/{model.detail.id}/plan/page"
            target="_blank">Print</a
          >
          {#if model.targetHash}
            <a
              class="inline-flex min-h-11 items-center rounded-md border border-rule bg-card px-4 text-ink no-underline"
              href="/api/readings/{model.detail.id}/plan/target.stl"
              download>Target as STL</a
            >
          {/if}
        {/if}
        <Button onclick={() => router.go(`/case/${caseId}`)}>Check</Button>
        <Button
          size="slim"
          aria-label="Visit"
          title="Visit: steps, timers, notes"
          onclick={() => router.go(`/case/${caseId}/visit`)}><Timer size={20} aria-hidden="true" /></Button
        >
        <HelpAndTheme />
      </div>
    {/if}
  </header>
  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_25rem]">
    <div class="@container relative min-h-0 min-w-0">
      <PlanSheet {model} ready={() => model.load(caseId)} />
      {#if model.plan}
        <p class="pointer-events-none absolute top-3 left-3 rounded bg-paper/85 px-2 py-1 text-base">
          Depth to cut, mm{model.targetHash ? "; the planned preparation inside the tooth" : ""}
        </p>
        <div
          class="pointer-events-none absolute right-3 bottom-3 left-3 z-10 flex items-end gap-3 [&>*]:pointer-events-auto"
        >
          <SurveyPlan
            view={model.view}
            frame={model.frame}
            centre={vec(model.plan.frame.centre)}
            points={model.plan.finish_line?.points ?? []}
            {lingual}
            mesialRight={model.mesialRight !== model.mirrored}
            look={(view) => model.look(view)}
          />
          <ToolRow {tools} part="Tools: mirror, and what is shown" />
        </div>
      {/if}
    </div>
    <aside class="flex min-h-0 flex-col border-l border-rule bg-card">
      {#if model.plan || tab === "materials"}
        <div
          class="flex flex-wrap gap-2 border-b border-rule px-4 py-2"
          role="group"
          aria-label="Parts of the plan"
        >
          {#each TABS as part (part.name)}
            <Button size="slim" pressed={shown === part.name} onclick={() => (tab = part.name)}
              >{part.title}</Button
            >
          {/each}
        </div>
      {/if}
      <div class="min-h-0 flex-1 overflow-y-auto">
        {#if model.error}<div class="p-3"><Notice tone="error">{model.error}</Notice></div>{/if}
        {#if model.busy && model.job}
          <Progress share={model.job.share} text={model.job.text} cancel={() => model.cancel()} />
        {:else if model.stale}
          <div class="flex flex-col gap-3 p-4">
            <Notice>Something has changed since this plan was made.</Notice>
            <Button tone="main" onclick={() => model.make()}>Plan again</Button>
          </div>
        {/if}
        {#if shown === "materials"}
          <Materials {model} />
        {:else if shown === "choose"}
          <Choices {model} />
          {#if !model.plan && model.detail}
            <div class="flex flex-col gap-3 px-4 pb-4">
              {#if !model.preop}
                <Notice>A plan needs the scan from before cutting. Add it under Scans.</Notice>
              {:else if model.asked && !model.busy}
                <Button tone="main" disabled={!model.choices?.near} onclick={() => model.make()}
                  >Make the plan</Button
                >
                <Button disabled={!model.choices?.near} onclick={() => (tab = "materials")}
                  >Which material can it take?</Button
                >
              {/if}
            </div>
          {/if}
        {:else if shown === "depths"}
          <Depths {model} />
        {:else}
          <Order {model} />
        {/if}
      </div>
    </aside>
  </main>
  <footer class="border-t border-rule bg-card px-4 py-1.5 text-right text-sm font-semibold">
    The dentist decides. Local rules and the manufacturer's instructions come first. Surfaces only: pulp,
    decay and cracks are not seen.
  </footer>
</div>
