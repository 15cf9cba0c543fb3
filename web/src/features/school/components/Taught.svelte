<script lang="ts">
  import { api, orNone, sentenceOf, type Taught } from "../../../api/client";
  import { router } from "../../../router.svelte";
  import Button from "../../../ui/Button.svelte";
  import Notice from "../../../ui/Notice.svelte";
  import { gradeText, markText, rangeText } from "../marks";

  /** Of a hand-in: look first where that is asked, then the mark with its reasons, what was seen, the instructor's own. */
  let { readingId, measured }: { readingId: string; measured: boolean } = $props();
  let taught = $state<Taught | null>(null);
  let error = $state("");
  let own = $state("");
  let why = $state("");
  let opened = $state(false);
  $effect(() => {
    void measured;
    const asked = readingId;
    if (!asked) return;
    orNone(api.taught(asked))
      .then((found) => {
        if (asked !== readingId) return;
        taught = found;
        if (found?.exercise?.look_first && !found.looked) {
          const of = router.path.split("/").filter(Boolean)[1] ?? "";
          router.go(`/case/${of}/look?attempt=${asked}`);
        }
      })
      .catch((e: unknown) => (error = sentenceOf(e)));
  });
  async function overrule(event: Event) {
    event.preventDefault();
    try {
      taught = await api.overrule(readingId, Number(own), why);
      own = why = error = "";
    } catch (e) {
      error = sentenceOf(e);
    }
  }
</script>

{#if taught?.exercise}
  <details
    class="border-b border-rule px-4 py-2"
    aria-label="Mark"
    ontoggle={(e) => (opened = e.currentTarget.open)}
  >
    <summary class="min-h-11 cursor-pointer py-2 text-base"
      >{#if taught.overrule}Mark <b class="text-xl">{taught.overrule.mark.toFixed(0)}</b>
        <span class="text-soft">by the instructor; the tool's {markText(taught.mark)}</span>
      {:else}Mark <b class="text-xl">{markText(taught.mark)}</b>
        <span class="text-soft"
          >of 100 {gradeText(taught.mark) ? `· ${gradeText(taught.mark)}` : ""}{rangeText(taught.mark)
            ? ` · could be ${rangeText(taught.mark)}`
            : ""}</span
        >{/if}</summary
    >
    {#if error}<Notice tone="error">{error}</Notice>{/if}
    {#if taught.mark}
      <p class="text-sm">{taught.mark.says}</p>
      <table class="mt-1 w-full text-sm" aria-label="Marks by row">
        <tbody>
          {#each taught.mark.rows as row (row.title)}
            <tr class="border-t border-rule align-top">
              <th class="py-1 text-left font-normal"
                >{row.title}<span class="block text-soft">{row.why}</span></th
              >
              <td class="py-1 pl-2 text-right whitespace-nowrap tabular-nums"
                >{row.share === null ? "–" : (row.share * row.weight).toFixed(1)}
                <span class="text-soft">of {row.weight}</span></td
              >
            </tr>
          {/each}
          {#each taught.mark.caps as cap (cap.criterion)}
            <tr class="border-t border-rule align-top">
              <th class="py-1 text-left font-normal"
                ><b class={cap.proven ? "text-short" : ""}>{cap.says}</b><span class="block text-soft"
                  >{cap.where}{cap.proven ? "" : ": too near the limit to say"}</span
                ></th
              >
              <td class="py-1 pl-2 text-right whitespace-nowrap">at most {cap.most}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
    {#if taught.look}
      <h2 class="pt-3 text-base font-semibold">What the eye saw</h2>
      <p class="text-sm">{taught.look.says}</p>
      <ul class="text-sm" aria-label="Seen and missed">
        {#each taught.look.seen as row, k (k)}
          <li class="border-t border-rule py-1">
            <b>Seen</b>
            {row.where}, {row.title}{row.off_mm === null
              ? ""
              : `: guessed ${row.guessed_mm?.toFixed(1)}, measured ${row.amount.toFixed(2)} mm`}
          </li>
        {/each}
        {#each taught.look.missed as row, k (k)}
          <li class="border-t border-rule py-1">
            <b class="text-short">Missed</b>
            {row.where}, {row.title}
          </li>
        {/each}
      </ul>
    {/if}
    {#if opened}<form class="flex flex-col gap-2 pt-3" onsubmit={overrule} aria-label="The instructor's mark">
        {#if taught.overrule}<p class="text-sm">
            By the instructor: <b>{taught.overrule.mark.toFixed(0)}</b>, {taught.overrule.why}
          </p>{/if}
        <div class="flex gap-2">
          <label class="flex w-24 flex-col gap-0.5 text-sm text-soft"
            >own mark
            <input
              type="number"
              min="0"
              max="100"
              required
              bind:value={own}
              class="min-h-11 rounded-md border border-rule bg-card px-2 text-base text-ink"
            /></label
          >
          <label class="flex flex-1 flex-col gap-0.5 text-sm text-soft"
            >why
            <input
              required
              maxlength="300"
              bind:value={why}
              class="min-h-11 rounded-md border border-rule bg-card px-2 text-base text-ink"
            /></label
          >
        </div>
        <div class="flex gap-2">
          <Button size="slim" type="submit">Keep beside the tool's</Button>
          <Button size="slim" onclick={() => router.go(`/school/${taught?.exercise?.id}`)}>The class</Button>
        </div>
      </form>{/if}
  </details>
{/if}
