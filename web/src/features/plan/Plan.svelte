<script lang="ts">
  import { router } from "../../router.svelte";
  import type { ViewName } from "../../sheet/views";
  import Button from "../../ui/Button.svelte";
  import Meter from "../../ui/Meter.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { plainKey } from "../../ui/keys";
  import { theme } from "../../ui/theme.svelte";
  import Choices from "./components/Choices.svelte";
  import Depths from "./components/Depths.svelte";
  import Order from "./components/Order.svelte";
  import PlanSheet from "./components/PlanSheet.svelte";
  import { Planning } from "./state.svelte";

  let { caseId }: { caseId: string } = $props();
  const model = new Planning();
  type Tab = "choose" | "depths" | "order";
  let tab = $state<Tab>("depths");
  const shown = $derived<Tab>(model.plan ? tab : "choose");
  const TABS: { name: Tab; title: string }[] = [
    { name: "choose", title: "Choose" },
    { name: "depths", title: "Depths" },
    { name: "order", title: "Order of work" },
  ];
  const lingual = $derived(model.site?.lingual_word ?? "lingual");
  const VIEWS = $derived<{ name: ViewName; key: string; title: string }[]>([
    { name: "occlusal", key: "o", title: "Occlusal" },
    { name: "facial", key: "f", title: "Facial" },
    { name: "lingual", key: "l", title: lingual[0]!.toUpperCase() + lingual.slice(1) },
    { name: "mesial", key: "m", title: "Mesial" },
    { name: "distal", key: "d", title: "Distal" },
  ]);

  function key(event: KeyboardEvent) {
    const press = plainKey(event);
    if (press === null) return;
    const view = VIEWS.find((v) => v.key === press);
    if (view) model.look(view.name);
    else if (press === "n") model.choose(((model.chosen + 1) % (model.plan?.sites.length ?? 1)) | 0);
    else if (press === "x") model.mirrored = !model.mirrored;
    else if (press === "t") theme.toggle();
    else return;
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={key} />

<div class="grid h-screen grid-rows-[auto_1fr_auto]">
  <header class="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-card px-4 py-2">
    <a
      href="/"
      class="text-xl font-bold text-ink no-underline"
      onclick={(e) => (e.preventDefault(), router.go("/"))}>Vane Line</a
    >
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
      </div>
    {/if}
  </header>
  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_25rem]">
    <div class="relative min-h-0 min-w-0">
      <PlanSheet {model} ready={() => model.load(caseId)} />
      {#if model.plan}
        <p class="pointer-events-none absolute top-3 left-3 rounded bg-paper/85 px-2 py-1 text-base">
          Depth to cut, mm{model.targetHash ? "; the planned preparation inside the tooth" : ""}
        </p>
        <div class="absolute bottom-3 left-3 flex flex-wrap gap-2" role="group" aria-label="Views">
          {#each VIEWS as view (view.name)}
            <Button class="px-3!" pressed={model.view === view.name} onclick={() => model.look(view.name)}>
              {view.title} <kbd class="text-xs">{view.key.toUpperCase()}</kbd>
            </Button>
          {/each}
          <Button class="px-3!" pressed={model.mirrored} onclick={() => (model.mirrored = !model.mirrored)}
            >Mirror <kbd class="text-xs">X</kbd></Button
          >
          {#if model.targetHash}
            <Button class="px-3!" pressed={!model.showTooth} onclick={() => model.toggleTooth()}
              >Tooth as it is</Button
            >
          {/if}
        </div>
      {/if}
    </div>
    <aside class="flex min-h-0 flex-col border-l border-rule bg-card">
      {#if model.plan}
        <div class="flex gap-2 border-b border-rule px-4 py-2" role="group" aria-label="Parts of the plan">
          {#each TABS as part (part.name)}
            <Button class="px-3!" pressed={shown === part.name} onclick={() => (tab = part.name)}
              >{part.title}</Button
            >
          {/each}
        </div>
      {/if}
      <div class="min-h-0 flex-1 overflow-y-auto">
        {#if model.error}<div class="p-3"><Notice tone="error">{model.error}</Notice></div>{/if}
        {#if model.busy && model.job}
          <div class="flex flex-col gap-3 p-4">
            <Meter share={model.job.share} text={model.job.text} />
            <Button tone="danger" onclick={() => model.cancel()}>Cancel</Button>
          </div>
        {:else if model.stale}
          <div class="flex flex-col gap-3 p-4">
            <Notice>Something has changed since this plan was made.</Notice>
            <Button tone="main" onclick={() => model.make()}>Plan again</Button>
          </div>
        {/if}
        {#if shown === "choose"}
          <Choices {model} />
          {#if !model.plan && model.detail}
            <div class="flex flex-col gap-3 px-4 pb-4">
              {#if !model.preop}
                <Notice>A plan needs the scan from before cutting. Add it under Scans.</Notice>
              {:else if model.asked && !model.busy}
                <Button tone="main" disabled={!model.choices?.near} onclick={() => model.make()}
                  >Make the plan</Button
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
