<script lang="ts">
  import { Archive } from "@lucide/svelte";
  import { onMount } from "svelte";
  import type { Case } from "../../api/client";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import Ask from "../../ui/Ask.svelte";
  import Notice from "../../ui/Notice.svelte";
  import { CaseList } from "./state.svelte";

  const list = new CaseList();
  onMount(() => void list.load());
  const progress = (c: Case) => {
    const attempts = c.sites.flatMap((s) => s.attempts);
    const done = attempts.filter((a) => a.job?.state === "done").length;
    return `${attempts.length} attempt${attempts.length === 1 ? "" : "s"}, ${done} measured`;
  };
</script>

<div class="mx-auto flex max-w-4xl flex-col gap-6 px-6 py-8">
  <header class="flex items-end justify-between gap-4">
    <div>
      <h1 class="text-4xl font-bold">Vane Line</h1>
      <p class="text-lg text-soft">Where a preparation falls short, by how much, and when to stop.</p>
    </div>
    <div class="flex gap-2">
      <Button onclick={() => router.go("/library")}>Standards, burs</Button>
      <Button tone="main" onclick={() => router.go("/new")}>New case</Button>
    </div>
  </header>
  {#if list.error}<Notice tone="error">{list.error}</Notice>{/if}
  {#if list.cases && list.cases.length === 0}
    <Notice>
      <p class="text-lg font-semibold">No cases yet.</p>
      <p>
        A case needs a scan of the preparation. With the scan before cutting it also tells the depth of the
        cut, and with the opposing teeth the space between them.
      </p>
    </Notice>
  {/if}
  <ul class="flex flex-col gap-3">
    {#each list.cases ?? [] as c (c.id)}
      {@const site = c.sites[0]}
      <li class="flex items-stretch gap-2">
        <a
          href="/case/{c.id}"
          onclick={(e) => (e.preventDefault(), router.go(`/case/${c.id}`))}
          class="flex flex-1 items-center gap-5 rounded-lg border border-rule bg-card px-5 py-4 text-ink no-underline hover:border-pine"
        >
          <span class="grid h-14 w-14 place-items-center rounded-md border-2 border-pine text-2xl font-bold"
            >{site?.tooth}</span
          >
          <span class="flex-1">
            <span class="block text-xl font-semibold"
              >{c.code}{#if c.demo}<span
                  class="ml-2 rounded bg-pine px-2 py-0.5 text-sm font-normal text-pine-ink"
                  >demo, made-up</span
                >{/if}</span
            >
            <span class="block text-soft"
              >{site?.restoration.replaceAll("-", " ")}, {site?.material.replaceAll("-", " ")} · {progress(
                c,
              )}</span
            >
          </span>
        </a>
        <a
          href="/case/{c.id}/plan"
          onclick={(e) => (e.preventDefault(), router.go(`/case/${c.id}/plan`))}
          class="flex items-center rounded-lg border border-rule bg-card px-5 text-ink no-underline hover:border-pine"
          >Plan</a
        >
        <button
          type="button"
          aria-label="Put {c.code} away"
          title="Put away; it can be taken back"
          class="flex min-w-11 items-center justify-center rounded-lg border border-rule bg-card text-soft hover:border-pine hover:text-ink"
          onclick={() => void list.putAway(c)}><Archive size={20} aria-hidden="true" /></button
        >
      </li>
    {/each}
  </ul>
  {#if list.away.length}
    <details class="rounded-lg border border-rule bg-card px-5 py-3">
      <summary class="min-h-8 cursor-pointer text-lg">Put away: {list.away.length}</summary>
      <p class="pt-1 text-soft">Deleted for good thirty days after they were put away.</p>
      <ul class="flex flex-col gap-2 pt-3">
        {#each list.away as c (c.id)}
          <li class="flex items-center gap-3" aria-label="{c.code}, put away">
            <span class="flex-1 text-lg"
              ><b>{c.code}</b> · tooth {c.sites[0]?.tooth} · since {c.put_away_at?.slice(0, 10)}</span
            >
            <Button onclick={() => void list.takeBack(c)}>Take back</Button>
            <Ask
              title="Delete {c.code} for good?"
              text="Its scans, measurements and plans are deleted from this machine. This cannot be undone."
              yes="Delete for good"
              onyes={() => void list.deleteForGood(c)}>Delete</Ask
            >
          </li>
        {/each}
      </ul>
    </details>
  {/if}
  <p class="text-sm text-soft">
    It measures surfaces. It sees no pulp, decay, cracks or patient: the dentist decides, and local
    regulations and manufacturers' instructions come first. Everything stays on this machine; use codes, never
    names.
  </p>
</div>
