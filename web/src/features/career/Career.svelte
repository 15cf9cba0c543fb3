<script lang="ts">
  import { onMount } from "svelte";
  import { api, sentenceOf, type Career } from "../../api/client";
  import Choice from "../../ui/Choice.svelte";
  import HelpAndTheme from "../../ui/HelpAndTheme.svelte";
  import Home from "../../ui/Home.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { words } from "../vocabulary.svelte";
  import DepthTrend from "./components/DepthTrend.svelte";
  import { againText, moved, passesOf } from "./told";

  /** One's own cases together: where it falls short again and again, and how that moves. */
  let career = $state<Career | null>(null);
  let error = $state("");
  let asked = $state({ restoration: "", material: "", tooth: "", mine: true });

  async function load() {
    error = "";
    try {
      [career] = await Promise.all([api.career(asked), words.load()]);
    } catch (e) {
      error = sentenceOf(e);
    }
  }
  onMount(load);
  function choose(values: Partial<typeof asked>) {
    asked = { ...asked, ...values };
    void load();
  }
  const plain = (name: string) => name.replaceAll("-", " ");
  const all = (title: string, names: string[]) => [
    { value: "", label: title },
    ...names.map((value) => ({ value, label: plain(value) })),
  ];
  const over = $derived(career?.over.filter((row) => row.worst_mm > 0) ?? []);
  const worst = $derived(over.reduce((most, row) => Math.max(most, row.worst_mm), 0));
  const passes = $derived(passesOf(career?.ways ?? []));
  const deep = (mm: number) => mm.toFixed(mm < 0.1 ? 2 : 1);
  const counted = (teeth: number) => `${teeth} ${teeth === 1 ? "tooth" : "teeth"}`;
  const after = (n: number) => (n === 0 ? "not yet" : n === 1 ? "at the first" : `after ${n}`);
  const address = $derived(
    `/api/career.csv?${new URLSearchParams({ ...asked, mine: String(asked.mine) }).toString()}`,
  );
</script>

<main class="mx-auto flex max-w-5xl flex-col gap-5 px-6 py-6">
  <header class="flex flex-wrap items-center gap-x-4 gap-y-2">
    <Home />
    <h1 class="text-2xl font-bold">Own cases together</h1>
    <div class="ml-auto flex gap-2">
      <a
        class="inline-flex min-h-11 items-center rounded-md border border-rule bg-card px-4 text-ink no-underline"
        href={address}
        download>As a table</a
      >
      <HelpAndTheme />
    </div>
  </header>
  {#if error}<Notice tone="error">{error}</Notice>{/if}
  {#if career}
    <div class="flex flex-wrap gap-3" role="search">
      <Choice
        label="Kind"
        value={asked.restoration}
        items={all("All kinds", career.restorations)}
        onchange={(restoration) => choose({ restoration })}
      />
      <Choice
        label="Material"
        value={asked.material}
        items={all("All materials", career.materials)}
        onchange={(material) => choose({ material })}
      />
      <Choice
        label="Tooth"
        value={asked.tooth}
        items={all("All teeth", career.tooth_numbers)}
        onchange={(tooth) => choose({ tooth })}
      />
    </div>
    {#if career.teeth === 0}
      <Notice>No measured tooth among these yet.</Notice>
    {:else}
      <section aria-label="Again and again">
        <h2 class="pb-1 text-lg font-semibold">At fault again and again</h2>
        {#if career.again.length}
          <ul class="border-t border-rule">
            {#each career.again as row (row.criterion + row.where + row.bound)}
              <li
                class="grid grid-cols-[minmax(0,1fr)_12rem_13rem] items-center gap-4 border-b border-rule py-2"
              >
                <span class="text-base"><b>{row.where}</b>: {row.title}</span>
                <span class="relative h-3 rounded-sm bg-rule" aria-hidden="true">
                  <span
                    class="absolute inset-y-0 left-0 rounded-sm bg-short/40"
                    style:width="{(100 * row.at_fault) / row.seen}%"
                  ></span>
                  <span
                    class="absolute inset-y-0 left-0 rounded-sm bg-short"
                    style:width="{100 * row.likely}%"
                  ></span>
                </span>
                <span class="text-base tabular-nums">{againText(row)}</span>
              </li>
            {/each}
          </ul>
          <p class="pt-1 text-sm text-soft">
            First attempts of {counted(career.teeth)}. The strong part of a bar is what is likely for certain;
            the pale part may be chance.
          </p>
        {:else}
          <p class="text-base">
            Nothing yet: a place is named once it was at fault twice among three or more first attempts.
          </p>
        {/if}
      </section>
      <section aria-label="Depths over time">
        <h2 class="pb-1 text-lg font-semibold">Depth against the target, first attempts in time</h2>
        <DepthTrend rows={career.depths} />
        {#if moved(career)}<p class="text-base">{moved(career)}</p>{/if}
      </section>
      <div class="grid gap-6 sm:grid-cols-2">
        <section aria-label="Passes">
          <h2 class="pb-1 text-lg font-semibold">Passes until nothing was short or over</h2>
          <ul>
            {#each passes as row (row.passes)}
              <li class="flex justify-between border-b border-rule py-1 text-base">
                <span>{after(row.passes)}</span><b class="tabular-nums">{counted(row.teeth)}</b>
              </li>
            {/each}
          </ul>
        </section>
        <section aria-label="Cut too deep">
          <h2 class="pb-1 text-lg font-semibold">Cut too deep</h2>
          <p class="text-base">
            {#if over.length}
              In <b>{over.length} of {career.over.length}</b> first attempts; at worst
              <b>{deep(worst)} mm</b>. What is cut does not come back.
            {:else}
              In none of {career.over.length} first attempts.
            {/if}
          </p>
          <ul>
            {#each over as row (row.code + row.tooth)}
              <li class="flex justify-between border-b border-rule py-1 text-base">
                <span>{row.code}, tooth {row.tooth}</span><b class="tabular-nums">{deep(row.worst_mm)} mm</b>
              </li>
            {/each}
          </ul>
        </section>
      </div>
    {/if}
  {/if}
  <p class="text-sm text-soft">
    Own cases only; nobody is ranked. The dentist decides: a place that falls short in this table may have
    been left so on purpose.
  </p>
</main>
