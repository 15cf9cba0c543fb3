<script lang="ts">
  import { onMount } from "svelte";
  import { api, sentenceOf, type CaseRow, type Exercise } from "../../api/client";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import Choice from "../../ui/Choice.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { teethOf } from "../site";
  import RubricList from "./components/Rubrics.svelte";
  import { Rubrics } from "./rubrics.svelte";

  /** Exercises: what was handed out, and a new one made of a case with a scan before cutting. */
  let exercises = $state<Exercise[] | null>(null);
  let cases = $state<CaseRow[]>([]);
  const ways = new Rubrics();
  const rubrics = $derived(ways.all);
  let error = $state("");
  let title = $state("");
  let caseId = $state("");
  let chosen = $state("");
  const rubric = $derived(chosen || (rubrics[0]?.id ?? ""));
  let lookFirst = $state(true);

  onMount(async () => {
    try {
      [exercises, cases] = await Promise.all([api.exercises(), api.cases()]);
    } catch (e) {
      error = sentenceOf(e);
    }
  });
  const kinds = $derived(rubrics.find((r) => r.id === rubric)?.restorations ?? []);
  const offered = $derived(
    cases
      .filter((c) => c.case.sites.length === 1 && kinds.includes(c.case.sites[0]!.restoration))
      .map((c) => ({ value: c.case.id, label: `${c.case.code}, tooth ${teethOf(c.case)}` })),
  );

  async function make(event: Event) {
    event.preventDefault();
    error = "";
    try {
      const made = await api.addExercise({
        title,
        case_id: caseId,
        rubric_id: rubric,
        look_first: lookFirst,
      });
      router.go(`/school/${made.id}`);
    } catch (e) {
      error = sentenceOf(e);
    }
  }
</script>

<main class="mx-auto flex max-w-5xl flex-col gap-6 px-6 py-6">
  <header class="flex items-center gap-4">
    <Home />
    <h1 class="text-lg">Exercises</h1>
    <div class="ml-auto flex gap-2"><HelpAndTheme /></div>
  </header>
  {#if error}<Notice tone="error">{error}</Notice>{/if}
  {#if exercises && exercises.length === 0}
    <Notice>
      <p class="text-lg font-semibold">No exercises yet.</p>
      <p>
        An exercise hands out one tooth as it stands before cutting. Scans that students hand in are measured
        against it, marked by a rubric, and seen together as a class.
      </p>
    </Notice>
  {/if}
  <ul class="flex flex-col gap-3" aria-label="Exercises">
    {#each exercises ?? [] as one (one.id)}
      <li>
        <a
          href="/school/{one.id}"
          onclick={(e) => (e.preventDefault(), router.go(`/school/${one.id}`))}
          class="flex items-center gap-5 rounded-lg border border-rule bg-card px-5 py-3 text-ink no-underline hover:border-pine"
        >
          <span class="w-14 text-center text-3xl font-bold">{one.tooth}</span>
          <span class="min-w-0 flex-1">
            <span class="block text-lg font-semibold">{one.title}</span>
            <span class="block text-soft"
              >{one.restoration.replaceAll("-", " ")} · rubric {one.rubric.title}, version {one.rubric
                .version}{one.look_first ? " · look first" : ""}</span
            >
          </span>
          <span class="text-lg"><b>{one.handed_in}</b> handed in</span>
        </a>
      </li>
    {/each}
  </ul>
  <form class="flex flex-col gap-4 rounded-lg border border-rule bg-card p-5" onsubmit={make}>
    <h2 class="text-lg font-semibold">New exercise</h2>
    <label class="flex flex-col gap-1">
      <span class="text-sm text-soft">Name</span>
      <input
        required
        maxlength="300"
        bind:value={title}
        class="min-h-11 rounded-md border border-rule bg-card px-3 text-base"
      />
    </label>
    <div class="grid grid-cols-2 gap-4">
      <Choice
        label="Case whose scan before cutting is handed out"
        value={caseId}
        items={offered}
        onchange={(v) => (caseId = v)}
      />
      <Choice
        label="Rubric"
        value={rubric}
        items={rubrics.map((r) => ({ value: r.id, label: r.title }))}
        onchange={(v) => (chosen = v)}
      />
    </div>
    <label class="flex min-h-11 items-center gap-2 text-base">
      <input type="checkbox" class="size-5" bind:checked={lookFirst} />
      students look first: they mark what they see before the verdict is shown
    </label>
    <div>
      <Button tone="main" type="submit" disabled={!title.trim() || !caseId}>Make the exercise</Button>
    </div>
  </form>
  <RubricList model={ways} />
  <p class="text-sm text-soft">
    Students are codes, never names. The instructor decides; a mark carries the measurement's uncertainty, and
    what could be another grade says so.
  </p>
</main>
