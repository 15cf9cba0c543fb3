<script lang="ts">
  import { router } from "../../router.svelte";
  import { api, type Case } from "../../api/client";
  import Button from "../../ui/Button.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { plainKey } from "../../ui/keys";
  import { theme } from "../../ui/theme.svelte";
  import { atClock, clockText } from "./clock";
  import Notes from "./components/Notes.svelte";
  import Steps from "./components/Steps.svelte";
  import Timers from "./components/Timers.svelte";
  import { visiting } from "./state.svelte";

  let { caseId }: { caseId: string } = $props();
  let found = $state<Case | null>(null);
  void (async () => (found = await api.case(caseId).catch(() => null)))();
  const visit = $derived(visiting.visit);
  let editing = $state<"steps" | "timers" | null>(null);
  const leave = () => ((editing = null), void visiting.load());

  function key(event: KeyboardEvent) {
    const press = plainKey(event);
    if (press === "n") void visiting.next();
    else if (press === "t") theme.toggle();
    else return;
    event.preventDefault();
  }
</script>

<svelte:window onkeydown={key} />

<div class="grid h-page min-h-[38rem] grid-rows-[auto_minmax(0,1fr)_auto]">
  <header class="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-card px-4 py-2">
    <Home />
    {#if found}
      <h1 class="text-lg font-normal">
        <b>{found.code}</b> · {found.sites.length > 1 ? "teeth" : "tooth"}
        <b>{found.sites.map((s) => s.tooth).join(", ")}</b> · visit
      </h1>
    {/if}
    <div class="ml-auto flex gap-2">
      <a
        class="inline-flex min-h-11 items-center rounded-md border border-rule bg-card px-4 text-base text-ink no-underline hover:border-pine"
        href="/api/cases/{caseId}/visit/log.html"
        target="_blank"
        rel="noopener"
        data-part="Chair log: all visits of the case on paper">Chair log</a
      >
      <Button onclick={() => router.go(`/case/${caseId}`)}>Check</Button>
      <HelpAndTheme />
    </div>
  </header>
  <main class="grid min-h-0 grid-cols-[minmax(0,1fr)_27rem]">
    <section class="min-h-0 overflow-y-auto" aria-label="Steps of the visit">
      {#if visiting.error}<div class="p-3"><Notice tone="error">{visiting.error}</Notice></div>{/if}
      {#if visit && editing === "steps"}
        <Steps {leave} />
      {:else if visit && editing === "timers"}
        <Timers {leave} />
      {:else if visit}
        <div class="flex flex-wrap items-center gap-4 border-b border-rule bg-card px-4 py-3">
          <p class="text-lg" aria-live="polite">
            {#if visit.minutes_left > 0}
              About <b>{Math.round(visit.minutes_left)} minutes</b> to go: until
              <b>{atClock(visiting.now, visit.minutes_left)}</b>.
            {:else}All steps are done.{/if}
          </p>
          <Button class="ml-auto" onclick={() => (editing = "steps")}>Edit the steps</Button>
          <Button tone="main" onclick={() => void visiting.next()}>Next step (N)</Button>
        </div>
        {#if visit.seating.length > 1}
          <p class="border-b border-rule px-4 py-2">
            Order of seating: <b>{visit.seating.join(", ")}</b>
            <span class="text-soft"
              >— the smallest first; canines last where all six front teeth are done.</span
            >
          </p>
        {/if}
        <ol data-part="Steps in their order: when, how long, how many hands">
          {#each visit.planned as step (step.id)}
            {@const entry = visiting.running.find((e) => e.name === step.id)}
            <li
              class="grid grid-cols-[4.5rem_minmax(0,1fr)_auto] items-start gap-3 border-b border-rule px-4 py-2 {step.state ===
              'running'
                ? 'border-l-4 border-l-pine bg-pine/10'
                : ''}"
            >
              <span
                class="pt-1 text-right text-lg tabular-nums {step.state === 'done'
                  ? 'text-soft'
                  : 'font-bold'}"
              >
                {#if entry}{clockText(visiting.elapsed(entry))}
                {:else if step.state === "done"}✓
                {:else}{atClock(visiting.now, step.begins_min)}{/if}
              </span>
              <span class="min-w-0">
                <span class="block text-lg font-semibold">{step.title}</span>
                <span class="block text-sm text-soft">
                  {step.lasts_min.toFixed(0)} min{step.each && (found?.sites.length ?? 1) > 1
                    ? " a tooth"
                    : ""}{step.by_log ? ", median of your last ten" : ""} · {step.hands === 1
                    ? "one person"
                    : `${step.hands} people`}{step.away
                    ? " · the patient may leave meanwhile"
                    : ""}{step.state === "ahead" ? "" : ` · ${step.state}`}
                </span>
                {#if step.state !== "done" && step.reminders.length}
                  <span class="block text-base">{step.reminders.join(" · ")}</span>
                {/if}
              </span>
              {#if entry}
                <Button size="slim" aria-label="End: {step.title}" onclick={() => void visiting.stop(entry)}
                  >End</Button
                >
              {:else}
                <Button
                  size="slim"
                  aria-label="Start: {step.title}"
                  onclick={() => void visiting.start("step", step.id)}>Start</Button
                >
              {/if}
            </li>
          {/each}
        </ol>
      {/if}
    </section>
    <aside class="min-h-0 overflow-y-auto border-l border-rule bg-card">
      {#if visit}
        <section
          class="border-b border-rule p-4"
          aria-label="Timers"
          data-part="Timers: several may run at once"
        >
          <div class="flex items-center justify-between pb-2">
            <h2 class="text-lg font-semibold">Timers</h2>
            <Button size="slim" onclick={() => (editing = "timers")}>Edit the timers</Button>
          </div>
          <div class="grid grid-cols-2 gap-2">
            {#each visit.timers as timer (timer.id)}
              <Button
                class="flex-col !items-start !gap-0 text-left"
                title={timer.source}
                onclick={() => void visiting.start("timer", timer.id)}
              >
                <span class="font-semibold">{timer.title}</span>
                <span class="text-sm text-soft tabular-nums"
                  >{clockText(timer.least_s)}{timer.most_s
                    ? ` to ${clockText(timer.most_s)}`
                    : " or more"}</span
                >
              </Button>
            {/each}
          </div>
          <p class="pt-2 text-sm text-soft">
            Common practice; the material's instructions come first. What runs stands at the foot of every
            screen of this case.
          </p>
        </section>
        {#key visit.notes_revision}<Notes
            notes={visit.notes}
            keep={(notes) => visiting.keepNotes(notes)}
          />{/key}
      {/if}
    </aside>
  </main>
  <footer class="border-t border-rule bg-card px-4 py-1.5 text-right text-sm font-semibold">
    The dentist decides. Local rules and the manufacturer's instructions come first. Codes only, no names.
  </footer>
</div>
