<script lang="ts">
  import { Moon, Plus, Sun } from "@lucide/svelte";
  import { router } from "../../router.svelte";
  import type { ViewName } from "../../sheet/views";
  import Button from "../../ui/Button.svelte";
  import Choice from "../../ui/Choice.svelte";
  import Meter from "../../ui/Meter.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { plainKey } from "../../ui/keys";
  import { theme } from "../../ui/theme.svelte";
  import BrushTools from "./components/BrushTools.svelte";
  import Changes from "./components/Changes.svelte";
  import Form from "./components/Form.svelte";
  import Findings from "./components/Findings.svelte";
  import LineTools from "./components/LineTools.svelte";
  import Section from "./components/Section.svelte";
  import Sheet from "./components/Sheet.svelte";
  import Timeline from "./components/Timeline.svelte";
  import Todo from "./components/Todo.svelte";
  import type { LensName } from "./findings";
  import { serves } from "../plan/document";
  import { Examine } from "./state.svelte";

  let { caseId }: { caseId: string } = $props();
  const model = new Examine();

  const LENSES: { name: LensName; key: string; title: string; says: string }[] = [
    { name: "depth", key: "1", title: "Depth", says: "tooth removed, against the material's minimum" },
    { name: "space", key: "2", title: "Clearance", says: "clearance to the opposing teeth, teeth together" },
    {
      name: "draw",
      key: "3",
      title: "Undercut",
      says: "what lies under an overhang along the path of insertion",
    },
    { name: "line", key: "4", title: "Finish line", says: "its course; dashed where none is clearly seen" },
    {
      name: "edges",
      key: "5",
      title: "Sharp edges",
      says: "what the milling bur must cut away beside sharp edges",
    },
    {
      name: "next",
      key: "6",
      title: "Neighbours",
      says: "blue: taken off the teeth beside it since before cutting",
    },
    { name: "change", key: "7", title: "Last pass", says: "blue: taken off since the attempt before" },
  ];
  const lenses = $derived(LENSES.filter((l) => l.name !== "change" || model.number > 1));
  const lingual = $derived(model.site?.lingual_word ?? "lingual");
  const VIEWS = $derived<{ name: ViewName; key: string; title: string }[]>([
    { name: "occlusal", key: "O", title: "Occlusal" },
    { name: "facial", key: "F", title: "Facial" },
    { name: "lingual", key: "L", title: lingual[0]!.toUpperCase() + lingual.slice(1) },
    { name: "mesial", key: "M", title: "Mesial" },
    { name: "distal", key: "D", title: "Distal" },
  ]);
  const busy = $derived(model.job && (model.job.state === "waiting" || model.job.state === "running"));

  const show = (panel: "section" | "form") => (model.panel = model.panel === panel ? null : panel);

  /** The next or previous finding, or line of the worklist. */
  function step(by: number) {
    const [at, go] =
      model.list === "todo"
        ? ([model.todo, (k: number) => model.chooseTodo(k)] as const)
        : ([model.chosen, (k: number) => model.choose(k)] as const);
    go(at < 0 && by < 0 ? -1 : at + by);
  }
  function tick() {
    const row = model.document?.corrections[model.todo];
    if (model.list === "todo" && row) void model.tick(row.key);
  }

  function key(event: KeyboardEvent) {
    const press = plainKey(event);
    if (press === null) return;
    const view = VIEWS.find((v) => v.key.toLowerCase() === press);
    const lens = lenses.find((l) => l.key === press);
    if (view) model.look(view.name);
    else if (lens) void model.setLens(lens.name);
    else if (press === "n" || press === "p") step(press === "n" ? 1 : -1);
    else if (press === "k") tick();
    else if (press === "x") model.mirrored = !model.mirrored;
    else if (press === "s") show("section");
    else if (press === "r") show("form");
    else if (press === "t") theme.toggle();
    else if (press === "w") model.list = model.list === "todo" ? "findings" : "todo";
    else if (press === "b" && model.document) model.brush.toggle();
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
      <span class="text-lg">
        <b>{model.case.code}</b> · tooth <b>{model.site.tooth}</b>
        <span class="text-sm text-soft">(Universal {model.site.universal})</span>
      </span>
      <div class="w-72">
        <Choice
          compact
          label="Standard"
          value={model.site.standard_id}
          items={model.standards
            .filter((s) => serves(s, model.site?.tooth ?? "36"))
            .map((s) => ({ value: s.id, label: s.title, hint: s.reason }))}
          onchange={(id) => model.useStandard(id)}
        />
      </div>
      <div class="ml-auto flex gap-2" role="group" aria-label="Attempts">
        {#each model.site.attempts as attempt (attempt.id)}
          <Button pressed={attempt.id === model.attemptId} onclick={() => model.open(attempt.id)}
            >Attempt {attempt.number}</Button
          >
        {/each}
        <Button
          class="px-3!"
          aria-label="New attempt"
          title="Add the next attempt"
          onclick={() => void model.addAttempt()}><Plus size={20} aria-hidden="true" /></Button
        >
        <Button onclick={() => router.go(`/case/${caseId}/plan?attempt=${model.attemptId}`)}>Plan</Button>
        <Button onclick={() => router.go(`/case/${caseId}/scans?attempt=${model.attemptId}`)}>Scans</Button>
        <Button aria-label={theme.dim ? "Light theme" : "Dim theme"} onclick={() => theme.toggle()}>
          {#if theme.dim}<Sun size={20} />{:else}<Moon size={20} />{/if}
        </Button>
      </div>
    {/if}
  </header>

  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_22.5rem]">
    <div class="relative min-h-0 min-w-0 {model.beside ? 'grid grid-cols-[minmax(0,1fr)_26rem]' : 'grid'}">
      <div class="relative min-h-0">
        <Sheet {model} ready={() => model.load(caseId)} />
        <div
          class="pointer-events-none absolute top-3 right-3 left-3 z-10 flex flex-wrap gap-2 [&_button]:pointer-events-auto"
          role="group"
          aria-label="Lenses"
        >
          {#each lenses as lens (lens.name)}
            <Button
              class="px-3!"
              pressed={model.lens === lens.name}
              onclick={() => model.setLens(lens.name)}
              title={lens.says}
            >
              {lens.title} <kbd class="text-xs">{lens.key}</kbd>
            </Button>
          {/each}
          {#if !(model.beside && model.lens === "line")}
            <p class="pointer-events-none basis-full self-start rounded text-sm text-soft">
              <span class="bg-paper/85 px-1"
                >{LENSES.find((l) => l.name === model.lens)?.says}{#if model.dressing && model.result}<b
                    role="status"
                  >
                    · colours are coming …</b
                  >{/if}</span
              >
            </p>
          {/if}
        </div>
        <div class="absolute bottom-3 left-3 flex flex-wrap gap-2" role="group" aria-label="Views">
          {#each VIEWS as view (view.name)}
            <Button class="px-3!" pressed={model.view === view.name} onclick={() => model.look(view.name)}>
              {view.title} <kbd class="text-xs">{view.key}</kbd>
            </Button>
          {/each}
          <Button
            class="px-3!"
            pressed={model.mirrored}
            onclick={() => (model.mirrored = !model.mirrored)}
            title="As seen in a mouth mirror"
          >
            Mirror <kbd class="text-xs">X</kbd>
          </Button>
          <Button class="px-3!" pressed={model.panel === "section"} onclick={() => show("section")}>
            Section <kbd class="text-xs">S</kbd>
          </Button>
          <Button
            class="px-3!"
            pressed={model.panel === "form"}
            onclick={() => show("form")}
            title="Taper of the walls and the finish line unrolled"
          >
            Taper, line <kbd class="text-xs">R</kbd>
          </Button>
          <Button
            class="px-3!"
            pressed={model.brush.on}
            disabled={!model.document}
            onclick={() => model.brush.toggle()}
            title="Simulate a stroke and see what would follow"
          >
            Simulate <kbd class="text-xs">B</kbd>
          </Button>
          {#if model.document?.clearance}
            <Button
              class="px-3!"
              pressed={model.showOpposing}
              onclick={() => model.setOpposing(!model.showOpposing)}>Opposing</Button
            >
          {/if}
        </div>
        {#if model.lens === "line" && model.document}<LineTools {model} />{/if}
        {#if model.document && model.panel}<BrushTools {model} over />{/if}
        {#if model.mirrored}
          <p class="absolute top-28 right-3 rounded bg-pine px-3 py-1 text-pine-ink">mirror image</p>
        {/if}
      </div>
      {#if model.document && model.panel === "section"}<Section {model} />{/if}
      {#if model.document && model.panel === "form"}<Form {model} />{/if}
      {#if model.document && model.beside === "try"}<BrushTools {model} />{/if}
    </div>

    <aside class="flex min-h-0 flex-col border-l border-rule bg-card">
      <div class="flex items-center justify-between gap-2 border-b border-rule px-4 py-2">
        <h1 class="sr-only">Findings</h1>
        <div class="flex gap-2" role="group" aria-label="List">
          <Button class="px-3!" pressed={model.list === "findings"} onclick={() => (model.list = "findings")}
            >Findings</Button
          >
          <Button class="px-3!" pressed={model.list === "todo"} onclick={() => (model.list = "todo")}
            >To do <kbd class="text-xs">W</kbd></Button
          >
        </div>
        {#if model.findings.length || model.list === "todo"}
          <div class="flex gap-2">
            <Button class="px-3!" onclick={() => step(-1)} aria-label="Previous finding (P)">◂ P</Button>
            <Button class="px-3!" onclick={() => step(1)} aria-label="Next finding (N)">N ▸</Button>
          </div>
        {/if}
      </div>
      <div class="min-h-0 flex-1 overflow-y-auto">
        {#if model.error}<div class="p-3"><Notice tone="error">{model.error}</Notice></div>{/if}
        {#if busy && model.job}
          <div class="flex flex-col gap-3 p-4">
            <Meter share={model.job.share} text={model.job.text} />
            <Button tone="danger" onclick={() => model.cancel()}>Cancel</Button>
          </div>
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
                    router.go(`/case/${caseId}/scans?attempt=${model.attemptId}&pairs=${a.role}`)}
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
          {#if model.document.frame.confidence < 0.6}
            <div class="p-3">
              <Notice tone="error">Which side is facial is uncertain. Confirm the axes under Scans.</Notice>
            </div>
          {/if}
          <Changes {model} />
          {#if model.list === "findings"}<Findings {model} />{:else}<Todo {model} />{/if}
          <p class="border-b border-rule px-4 py-3 text-soft">{model.meets} checks meet the standard.</p>
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
        {:else if model.detail && !busy}
          <div class="flex flex-col gap-3 p-4">
            <p>This attempt has not been measured yet.</p>
            <Button tone="main" onclick={() => model.measure()}>Measure</Button>
          </div>
        {/if}
        {#if model.result?.stale && !busy}
          <div class="flex flex-col gap-3 p-4">
            <Notice>Scans, axes or standard have changed since this was measured.</Notice>
            <Button tone="main" onclick={() => model.measure()}>Measure again</Button>
          </div>
        {/if}
      </div>
    </aside>
  </main>

  <footer
    class="flex flex-wrap items-center gap-x-5 gap-y-1 border-t border-rule bg-card px-4 py-1.5 text-sm text-soft"
  >
    <span class="flex items-center gap-1.5"
      ><i
        class="inline-block h-3.5 w-6 border border-rule"
        style="background: repeating-linear-gradient(135deg, #c9602f 0 3px, #8c2a0c 3px 5px)"
      ></i> short of minimum, lines every 0.1 mm</span
    >
    <span class="flex items-center gap-1.5"
      ><i
        class="inline-block h-3.5 w-6 border border-rule"
        style="background: radial-gradient(#1f4e8c 35%, #b6d0ec 37%) 0 0/6px 6px"
      ></i> over-cut</span
    >
    <span class="flex items-center gap-1.5"
      ><i
        class="inline-block h-3.5 w-6 border border-rule"
        style="background: repeating-linear-gradient(0deg, #e9d990 0 3px, #f0ead0 3px 6px)"
      ></i> too near to say</span
    >
    <span class="flex items-center gap-1.5"
      ><i
        class="inline-block h-3.5 w-6 border border-rule"
        style="background: radial-gradient(#5d5d64 35%, #b3b3b6 37%) 0 0/5px 5px"
      ></i> never seen by the earlier scan</span
    >
    <span class="ml-auto font-semibold text-ink"
      >The dentist decides. Local rules and the manufacturer's instructions come first.</span
    >
  </footer>
</div>
