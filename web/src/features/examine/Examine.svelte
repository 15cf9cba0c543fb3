<script lang="ts">
  import { sentenceOf } from "../../api/client";
  import { Camera, Plus, Timer } from "@lucide/svelte";
  import { router } from "../../router.svelte";
  import SurveyPlan from "../../sheet/SurveyPlan.svelte";
  import { vec } from "../../sheet/vectors";
  import { VIEW_KEYS, viewFor, type ViewName } from "../../sheet/views";
  import Button from "../../ui/Button.svelte";
  import Choice from "../../ui/Choice.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Progress from "../../ui/Progress.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { plainKey } from "../../ui/keys";
  import { keepFile, pictureOf } from "../../ui/picture";
  import { theme } from "../../ui/theme.svelte";
  import Answer from "./components/Answer.svelte";
  import Bite from "./components/Bite.svelte";
  import BesideSheet from "./components/BesideSheet.svelte";
  import BrushTools from "./components/BrushTools.svelte";
  import Changes from "./components/Changes.svelte";
  import Cusps from "./components/Cusps.svelte";
  import Channels from "./components/Channels.svelte";
  import Sizes from "./components/Sizes.svelte";
  import Veneer from "./components/Veneer.svelte";
  import Veneers from "./components/Veneers.svelte";
  import Form from "./components/Form.svelte";
  import Findings from "./components/Findings.svelte";
  import Legend from "./components/Legend.svelte";
  import Lenses from "./components/Lenses.svelte";
  import LineTools from "./components/LineTools.svelte";
  import Movements from "./components/Movements.svelte";
  import Pins from "./components/Pins.svelte";
  import Record from "./components/Record.svelte";
  import Rescan from "./components/Rescan.svelte";
  import Section from "./components/Section.svelte";
  import Sheet from "./components/Sheet.svelte";
  import { Taught } from "../school";
  import Timeline from "./components/Timeline.svelte";
  import Todo from "./components/Todo.svelte";
  import Tools from "./components/Tools.svelte";
  import { serves, words } from "../vocabulary.svelte";
  import { Examine } from "./state.svelte";

  let { caseId }: { caseId: string } = $props();
  const model = new Examine();

  /** The view in which what the lens tells is seen, where it lies under what this one shows. */
  const hidden = $derived.by<ViewName | null>(() => {
    if (words.lens(model.lens)?.best_view !== "side" || model.view !== "occlusal") return null;
    const worst = model.rows.flatMap((r) => r.findings).find((f) => f.lens === model.lens && f.at);
    return worst?.at && model.frame ? viewFor(vec(worst.at), model.centre, model.frame, "wall") : null;
  });
  let [sheet, legend] = $state<(HTMLElement | null)[]>([null, null]);
  /** The view as it is seen, with its legend, as a file. */
  async function picture() {
    const { case: of, site } = model;
    if (!of || !site || !sheet || !legend) return;
    const style = getComputedStyle(document.documentElement);
    const colour = (name: string) => style.getPropertyValue(name).trim();
    const title = `${of.code} · tooth ${site.tooth} · attempt ${model.number} · ${words.lens(model.lens)?.title ?? ""} · ${model.standard?.title ?? ""}`;
    try {
      const blob = await pictureOf(title, [sheet, legend], colour("--paper"), colour("--ink"));
      keepFile(blob, `${of.code}_${site.tooth}_attempt-${model.number}_${model.lens}.png`);
    } catch (error) {
      model.error = sentenceOf(error);
    }
  }
  let over = $state(false); // files are held over the page

  /** The next or previous finding, or line of the worklist. */
  function step(by: number) {
    const [at, go] =
      model.list === "todo"
        ? ([model.todo.chosen, (k: number) => model.todo.choose(k)] as const)
        : ([model.chosen, (k: number) => model.choose(k)] as const);
    go(at < 0 && by < 0 ? -1 : at + by);
  }
  function tick() {
    const row = model.document?.corrections[model.todo.chosen];
    if (model.list === "todo" && row) void model.todo.tick(row.key);
  }

  function key(event: KeyboardEvent) {
    const press = plainKey(event);
    if (press === null) return;
    const view = VIEW_KEYS[press];
    const lens = model.lenses[Number(press) - 1];
    if (view) model.look(view);
    else if (lens) void model.setLens(lens.name);
    else if (press === "n" || press === "p") step(press === "n" ? 1 : -1);
    else if (press === "k") tick();
    else if (press === "x") model.mirrored = !model.mirrored;
    else if (press === "s") model.togglePanel("section");
    else if (press === "r") model.togglePanel("form");
    else if (press === "t") theme.toggle();
    else if (press === "g" && model.document?.clearance) void model.opposing.show(!model.opposing.shown);
    else if (press === "w") model.list = model.list === "todo" ? "findings" : "todo";
    else if (press === "b" && model.document) model.brush.toggle();
    else if (press === "i" && model.document) model.pins.on = !model.pins.on;
    else if (press === "c" && model.beside.offered) void model.beside.toggle();
    else return;
    event.preventDefault();
  }
</script>

<svelte:window
  onkeydown={key}
  ondragover={(e) => (e.preventDefault(), (over = true))}
  ondragleave={(e) => e.relatedTarget === null && (over = false)}
  ondrop={(e) => (
    e.preventDefault(),
    (over = false),
    void model.newcomers.dropped([...(e.dataTransfer?.files ?? [])])
  )}
/>

<div class="grid h-page min-h-[40rem] grid-rows-[auto_minmax(0,1fr)_auto] print:block print:h-auto">
  <header class="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-card px-4 py-2">
    <Home />
    {#if model.case && model.site}
      <span class="text-lg">
        <b>{model.case.code}</b> · tooth
        {#if model.case.sites.length > 1}
          <span role="group" aria-label="Teeth of the case">
            {#each model.case.sites as site (site.id)}
              <Button pressed={site.id === model.site.id} onclick={() => model.openTooth(site)}
                >{site.tooth}</Button
              >
            {/each}
          </span>
          {#if model.case.missing.length}
            <Button onclick={() => router.go(`/case/${caseId}/bridge?attempt=${model.readingId}`)}
              >As one bridge</Button
            >
          {/if}
        {:else}<b>{model.site.tooth}</b>{/if}
        <span class="text-sm text-soft max-[1400px]:hidden">(Universal {model.site.universal})</span>
      </span>
      <div class="w-56">
        <Choice
          compact
          label="Standard"
          value={model.site.standard_id}
          items={model.standards
            .filter((s) => model.site && serves(s, model.site.tooth, model.site.restoration))
            .map((s) => ({ value: s.id, label: s.title, hint: s.reason }))}
          onchange={(id) => model.terms.useStandard(id)}
        />
      </div>
      <div class="ml-auto flex gap-2" role="group" aria-label="Attempts">
        {#each model.site.readings as attempt (attempt.id)}
          <Button pressed={attempt.id === model.readingId} onclick={() => model.open(attempt.id)}
            >Attempt {attempt.number}</Button
          >
        {/each}
        <Button
          size="slim"
          aria-label="New attempt"
          title="Add the next attempt"
          onclick={() => void model.newcomers.addAttempt()}><Plus size={20} aria-hidden="true" /></Button
        >
        {#if words.kind(model.site.restoration)?.planned}
          <Button onclick={() => router.go(`/case/${caseId}/plan?attempt=${model.readingId}`)}>Plan</Button>
        {/if}
        <Button onclick={() => router.go(`/case/${caseId}/scans?attempt=${model.readingId}`)}>Scans</Button>
        <Button
          size="slim"
          aria-label="Visit"
          title="Visit: steps, timers, notes"
          onclick={() => router.go(`/case/${caseId}/visit`)}><Timer size={20} aria-hidden="true" /></Button
        >
        <Button
          size="slim"
          aria-label="Picture of this view"
          title="Keep this view as a PNG, with its legend"
          disabled={!model.document}
          onclick={() => void picture()}><Camera size={20} aria-hidden="true" /></Button
        >
        {#if model.readingId}
          <Record
            {caseId}
            readingId={model.readingId}
            missing={!model.document ? "measure first" : model.result?.stale ? "measure again first" : ""}
            marks={model.pins.all.length}
            answer={(file) => model.pins.answer(file)}
          />
        {/if}
        <HelpAndTheme />
      </div>
    {/if}
  </header>

  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_22.5rem] grid-rows-[minmax(0,1fr)] print:block">
    <div
      class="relative min-h-0 min-w-0 {model.aside
        ? 'grid grid-cols-[minmax(0,1fr)_26rem] grid-rows-[minmax(0,1fr)] max-[1100px]:grid-cols-1 max-[1100px]:grid-rows-[minmax(0,2fr)_minmax(0,3fr)]'
        : 'grid'}"
    >
      <div class="grid min-h-0 grid-rows-[auto_minmax(0,1fr)]">
        <Lenses {model} />
        <div
          bind:this={sheet}
          data-walk="sheet"
          data-part="The sheet: drag to turn; rest the pointer on the tooth to read it; drop the next scan anywhere"
          class="@container relative grid min-h-0 {model.beside.on && model.beside.way === 'split'
            ? 'grid-cols-2'
            : 'grid-cols-1'}"
        >
          <Sheet {model} ready={() => model.load(caseId)} />
          {#if model.dressing && model.result}
            <p
              class="absolute top-3 left-3 z-10 rounded bg-card/90 px-2 py-1 text-sm font-semibold"
              role="status"
            >
              Reading: the colours are coming …
            </p>
          {/if}
          <div
            class="pointer-events-none absolute right-3 bottom-3 left-3 z-10 flex items-end gap-3 [&>*]:pointer-events-auto"
          >
            <div class={model.aside ? "max-[1100px]:hidden" : ""} data-picture="no">
              <SurveyPlan
                view={model.view}
                frame={model.frame}
                centre={model.centre}
                points={model.document?.finish_line.points ?? []}
                lingual={model.site?.lingual_word ?? "lingual"}
                mesialRight={model.mesialRight !== model.mirrored}
                look={(view) => model.look(view)}
              />
            </div>
            <Tools {model} />
          </div>
          {#if hidden}
            <div class="absolute right-3 bottom-18 z-10">
              <Button onclick={() => model.look(hidden)}>It is seen from {hidden}</Button>
            </div>
          {/if}
          {#if model.lens === "line" && model.document && !model.beside.on}<LineTools {model} />{/if}
          {#if model.document && model.panel}<BrushTools {model} over />{/if}
          {#if model.beside.on}<BesideSheet {model} />{/if}
          {#if model.mirrored}
            <p class="absolute top-3 right-3 rounded bg-pine px-3 py-1 text-pine-ink">mirror image</p>
          {/if}
        </div>
      </div>
      {#if model.document && model.panel === "section"}<Section {model} />{/if}
      {#if model.document && model.panel === "form"}<Form {model} />{/if}
      {#if model.document && model.aside === "try"}<BrushTools {model} />{/if}
    </div>

    <aside class="flex min-h-0 flex-col border-l border-rule bg-card print:block print:border-0">
      <Answer {model} />
      <Taught readingId={model.readingId} measured={model.document !== null} />
      <div class="flex items-center justify-between gap-2 border-b border-rule px-4 py-2">
        <h1 class="sr-only">Findings</h1>
        <div class="flex gap-2 whitespace-nowrap" role="group" aria-label="List">
          <Button size="slim" pressed={model.list === "findings"} onclick={() => (model.list = "findings")}
            >Findings</Button
          >
          <Button
            size="slim"
            data-walk="todo"
            pressed={model.list === "todo"}
            onclick={() => (model.list = "todo")}>To do <kbd class="text-xs">W</kbd></Button
          >
        </div>
        {#if model.findings.length || model.list === "todo"}
          <div class="flex gap-2" data-walk="next" data-part="From place to place, the gravest first">
            <Button size="slim" onclick={() => step(-1)} title="The place before"
              >Back <kbd class="text-xs">P</kbd></Button
            >
            <Button size="slim" onclick={() => step(1)} title="The next place"
              >Next <kbd class="text-xs">N</kbd></Button
            >
          </div>
        {/if}
      </div>
      <div class="min-h-0 flex-1 overflow-y-auto print:overflow-visible">
        {#if model.error}<div class="p-3"><Notice tone="error">{model.error}</Notice></div>{/if}
        {#if model.busy && model.job}
          <Progress share={model.job.share} text={model.job.text} cancel={() => model.cancel()} />
        {/if}
        {#each model.untrusted as a (a.role)}
          <div class="p-3">
            <Notice tone="error"
              ><b>Not trusted:</b> the alignment of the {a.role} scan. {a.why}. Nothing that depends on it is
              judged.
              {#if a.role === "preop" || a.role === "mockup"}
                <Button
                  class="mt-2"
                  onclick={() =>
                    router.go(`/case/${caseId}/scans?attempt=${model.readingId}&pairs=${a.role}`)}
                  >Point at the same places on both</Button
                >
              {/if}</Notice
            >
          </div>
        {/each}
        {#if model.document}
          {#if model.document.clearance && !model.document.clearance.bite.ok}
            <div class="p-3"><Notice tone="error">{model.document.clearance.bite.note}</Notice></div>
          {/if}
          <Rescan {model} />
          {#if model.document.frame.confidence < 0.6}
            <div class="p-3">
              <Notice tone="error">Which side is facial is uncertain. Confirm the axes under Scans.</Notice>
            </div>
          {/if}
          {#if model.pins.on}<Pins {model} />{/if}
          <Changes {model} />
          {#if model.list === "findings"}<Findings {model} />{:else}<Todo {model} />{/if}
          <Cusps {model} />
          <Veneer {model} />
          <Veneers {model} />
          <Sizes {model} />
          <Channels {model} />
          <Bite {model} />
          <Movements {model} />
          <p class="border-b border-rule px-4 py-3 text-soft">{model.meets} checks meet the standard.</p>
          {#if !model.pins.on}<Pins {model} />{/if}
          <Timeline {model} />
          {#if model.document.warnings.length}
            <details class="px-4 py-3" open={false}>
              <summary class="min-h-8 cursor-pointer"
                >Notes on the scans: {model.document.warnings.length}</summary
              >
              <ul class="flex list-disc flex-col gap-1 pt-2 pl-5 text-sm text-soft">
                {#each model.document.warnings as warning (warning)}<li>{warning}</li>{/each}
              </ul>
            </details>
          {/if}
        {:else if model.detail && !model.busy}
          <div class="flex flex-col gap-3 p-4">
            <p>This attempt has not been measured yet.</p>
            <Button tone="main" onclick={() => model.measure()}>Measure</Button>
          </div>
        {/if}
        {#if model.result?.stale && !model.busy}
          <div class="flex flex-col gap-3 p-4">
            <Notice>Scans, axes or standard have changed since this was measured.</Notice>
            <Button tone="main" onclick={() => model.measure()}>Measure again</Button>
          </div>
        {/if}
      </div>
    </aside>
  </main>

  {#if over || model.newcomers.names}
    <div
      class="pointer-events-none fixed inset-0 z-50 grid place-items-center border-8 border-pine bg-paper/80"
      role="status"
    >
      <p class="rounded-lg bg-card px-8 py-6 text-2xl font-bold shadow-lg">
        {model.newcomers.names
          ? `Reading ${model.newcomers.names} …`
          : "Drop the new scan: it is measured as the next attempt"}
      </p>
    </div>
  {/if}

  <footer
    class="flex items-center justify-between gap-5 border-t border-rule bg-card px-4 py-1.5 text-sm text-soft"
  >
    <div bind:this={legend}><Legend {model} /></div>
    <p class="max-w-88 shrink-0 text-right text-ink">
      <b>The dentist decides.</b> Local rules and the manufacturer's instructions come first.
    </p>
  </footer>
</div>
