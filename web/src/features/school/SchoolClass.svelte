<script lang="ts">
  import { onMount } from "svelte";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import Choice from "../../ui/Choice.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { gradeText, lookText, markText, ORDERS, ordered, rangeText } from "./marks";
  import { LOOKS } from "../looks";
  import Relief from "./components/Relief.svelte";
  import { ClassRoom } from "./state.svelte";

  /** A class: everyone's mark with its reasons, thirty sheets in one view, and where all fall short. */
  const room = new ClassRoom(router.path.split("/").filter(Boolean)[1] ?? "");
  let order = $state("code");
  type Shown = (typeof VIEWS)[number][0];
  let view = $state<Shown>((router.query.get("view") as Shown | null) ?? "table");
  let chooser: HTMLInputElement;
  onMount(() => {
    void room.load();
    return () => room.leave();
  });
  const found = $derived(room.found);
  const rows = $derived(ordered(found?.rows ?? [], order));
  const VIEWS = [
    ["table", "Marks"],
    ["sheets", "Sheets"],
    ["shared", "Where all fall short"],
    ["relief", "On the tooth"],
  ] as const;
  const open = (row: (typeof rows)[number]) => router.go(`/case/${row.case_id}?attempt=${row.reading_id}`);
  const MOST_SHARED = 25;
  const unitOf = (unit: string) => (unit === "deg" ? "°" : unit === "ratio" ? "" : ` ${unit}`);
</script>

<div class="grid h-page min-h-[38rem] grid-rows-[auto_auto_minmax(0,1fr)_auto]">
  <header class="flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-card px-4 py-2">
    <Home />
    {#if found}
      <h1 class="text-lg font-normal">
        <b>{found.exercise.title}</b> · tooth <b>{found.exercise.tooth}</b>
      </h1>
    {/if}
    <div class="ml-auto flex gap-2">
      <Button onclick={() => router.go("/school")}>Exercises</Button>
      {#if found?.rows.length}
        <a
          class="inline-flex min-h-11 items-center rounded-md border border-rule bg-card px-4 text-base text-ink no-underline hover:border-pine"
          href="/api/exercises/{room.id}/class.csv"
          download="class.csv">For the books (CSV)</a
        >
      {/if}
      <input
        bind:this={chooser}
        type="file"
        multiple
        accept=".stl,.ply,.obj,.gz,.zip"
        class="hidden"
        aria-label="Scans to hand in"
        onchange={() => void room.handIn([...(chooser.files ?? [])]).then(() => (chooser.value = ""))}
      />
      <Button tone="main" disabled={room.bringing !== ""} onclick={() => chooser.click()}
        >Hand in scans</Button
      >
      <HelpAndTheme />
    </div>
  </header>
  <div class="flex flex-wrap items-center gap-4 border-b border-rule px-4 py-2">
    <div class="flex gap-2" role="group" aria-label="View">
      {#each VIEWS as [name, label] (name)}
        <Button
          size="slim"
          pressed={view === name}
          onclick={() => ((view = name), router.note({ view: name }))}>{label}</Button
        >
      {/each}
    </div>
    {#if found}
      <p class="text-base" role="status">
        <b>{found.rows.length}</b> handed in{room.waiting
          ? `, ${room.waiting} being measured`
          : ""}{found.median === null ? "" : ` · median ${found.median.toFixed(0)} of 100`}
      </p>
    {/if}
    {#if room.bringing}<p class="text-base" role="status">Reading {room.bringing} …</p>{/if}
    {#if view === "table" || view === "sheets"}
      <div class="ml-auto w-44">
        <Choice compact label="Order" value={order} items={ORDERS} onchange={(v) => (order = v)} />
      </div>
    {/if}
  </div>
  <main class="min-h-0 overflow-y-auto">
    {#if room.error}<div class="p-3"><Notice tone="error">{room.error}</Notice></div>{/if}
    {#each room.refused as sentence (sentence)}
      <div class="p-3"><Notice tone="error">Not taken: {sentence}</Notice></div>
    {/each}
    {#if found && !found.rows.length}
      <div class="p-4">
        <Notice>
          <p class="text-lg font-semibold">Nothing was handed in yet.</p>
          <p>
            Choose the class's scans all at once. What stands before the first underscore of a file's name is
            the student's code: S-014_prep.stl. The same code again is that student's next attempt.
          </p>
        </Notice>
      </div>
    {:else if found && view === "table"}
      <table class="w-full text-base" aria-label="Marks">
        <thead class="sticky top-0 bg-paper">
          <tr class="text-left text-sm text-soft">
            <th class="px-4 py-2 font-normal">student</th>
            <th class="px-2 text-right font-normal">mark</th>
            <th class="px-2 font-normal">could be</th>
            <th class="px-2 font-normal">grade</th>
            <th class="px-2 text-right font-normal">instructor</th>
            <th class="px-2 text-right font-normal">saw first</th>
            <th class="px-2 font-normal">gravest</th>
          </tr>
        </thead>
        <tbody>
          {#each rows as row (row.case_id)}
            <tr class="border-t border-rule hover:bg-card">
              <th class="px-4 py-1 text-left font-semibold whitespace-nowrap"
                ><a
                  class="inline-flex min-h-11 items-center text-ink"
                  href="/case/{row.case_id}?attempt={row.reading_id}"
                  onclick={(e) => (e.preventDefault(), open(row))}>{row.code}</a
                >
                {#if row.attempts > 1}<span class="font-normal text-soft">attempt {row.attempt}</span>{/if}
              </th>
              <td
                class="px-2 text-right text-xl tabular-nums {row.overrule
                  ? 'text-soft line-through'
                  : 'font-bold'}">{markText(row.mark)}</td
              >
              <td class="px-2 text-soft tabular-nums">{rangeText(row.mark)}</td>
              <td class="px-2">{gradeText(row.mark)}{row.outlier ? " · far from the rest" : ""}</td>
              <td class="px-2 text-right tabular-nums">
                {#if row.overrule}<b class="text-xl" title={row.overrule.why}
                    >{row.overrule.mark.toFixed(0)}</b
                  >{/if}
              </td>
              <td class="px-2 text-right tabular-nums">{lookText(row.look)}</td>
              <td class="px-2"
                >{row.state === "waiting" || row.state === "running"
                  ? "being measured …"
                  : row.state === "failed"
                    ? "could not be measured"
                    : row.answer}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
    {:else if found && view === "sheets"}
      <ul class="grid grid-cols-[repeat(auto-fill,minmax(11.5rem,1fr))] gap-3 p-4" aria-label="Sheets">
        {#each rows as row (row.case_id)}
          <li>
            <a
              href="/case/{row.case_id}?attempt={row.reading_id}"
              onclick={(e) => (e.preventDefault(), open(row))}
              class="block rounded-lg border border-rule bg-card text-ink no-underline hover:border-pine"
            >
              {#if row.picture}
                <img
                  src="/api/pictures/{row.picture}"
                  alt="Sheet of {row.code}"
                  width="240"
                  height="180"
                  loading="lazy"
                  decoding="async"
                  class="aspect-4/3 w-full rounded-t-lg object-cover"
                />
              {:else}
                <span class="grid aspect-4/3 w-full place-items-center text-soft">no picture yet</span>
              {/if}
              <span class="flex items-baseline justify-between px-3 py-1.5">
                <b>{row.code}</b>
                <span class="text-xl font-bold tabular-nums"
                  >{row.overrule?.mark.toFixed(0) ?? markText(row.mark)}</span
                >
              </span>
            </a>
          </li>
        {/each}
      </ul>
    {:else if found && view === "relief"}
      <Relief exerciseId={room.id} />
    {:else if found}
      <div class="mx-auto max-w-5xl p-4">
        {#if found.shared.length}
          <ul class="flex flex-col" aria-label="Where all fall short">
            {#each found.shared.slice(0, MOST_SHARED) as place (place.criterion + place.where + place.bound)}
              {@const share = place.failed / place.judged}
              <li
                class="grid grid-cols-[19rem_minmax(0,1fr)_13rem] items-center gap-4 border-b border-rule py-1.5"
              >
                <span
                  ><b class="first-letter:uppercase">{place.where}</b>
                  <span class="block text-sm text-soft">{place.title}</span></span
                >
                <span class="flex items-center gap-3">
                  <span class="h-5 flex-1 border border-rule bg-card" aria-hidden="true"
                    ><span
                      class="block h-full"
                      style="width: {share * 100}%; background: {LOOKS[
                        place.bound === 'max' ? 'over' : 'short'
                      ]}"
                    ></span></span
                  >
                  <span class="w-20 text-right tabular-nums">{place.failed} of {place.judged}</span>
                </span>
                <span class="text-right tabular-nums"
                  >{place.median > 0
                    ? `${place.median.toFixed(place.unit === "mm" ? 2 : 1)}${unitOf(place.unit)} ${place.bound === "min" ? "short" : "over"}`
                    : "most meet"}<span class="block text-sm text-soft">median of all</span></span
                >
              </li>
            {/each}
          </ul>
        {:else}
          <Notice>No place fails in anybody's preparation.</Notice>
        {/if}
        {#if found.agreement}
          <p class="pt-4">
            Instructor and tool, {found.agreement.count} preparations: on average {Math.abs(
              found.agreement.bias,
            ).toFixed(0)} marks {found.agreement.bias >= 0 ? "kinder" : "stricter"} by hand, 95 % between {found.agreement.low.toFixed(
              0,
            )} and {found.agreement.high.toFixed(0)}{found.intraclass === null
              ? ""
              : `; intraclass correlation ${found.intraclass.toFixed(2)}`}.
          </p>
        {:else}
          <p class="pt-4 text-soft">
            How far instructor and tool agree is told from three preparations on that both have marked.
          </p>
        {/if}
      </div>
    {/if}
  </main>
  <footer class="border-t border-rule bg-card px-4 py-1.5 text-sm text-soft">
    <b class="text-ink">The instructor decides.</b> A mark is told with what it could be within the measurement's
    uncertainty; codes, never names.
  </footer>
</div>
