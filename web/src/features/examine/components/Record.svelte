<script lang="ts">
  import { FileText } from "@lucide/svelte";
  import { Popover } from "bits-ui";
  import { api, type Person } from "../../../api/client";
  import { who } from "../../../ui/who.svelte";

  interface Props {
    caseId: string;
    readingId: string;
    /** Why there is none yet, else empty. */
    missing: string;
    /** How many places are marked. */
    marks: number;
    /** Takes in the other side's marks; what is said of it. */
    answer: (file: File) => Promise<string>;
  }
  let { caseId, readingId, missing, marks, answer }: Props = $props();
  let chooser = $state<HTMLInputElement | null>(null);
  let said = $state("");
  let open = $state(false);
  let wishes = $state("");
  let laboratories = $state<Person[]>([]);
  let shared = $state<string[]>([]);
  $effect(() => {
    if (!open || !who.person || who.limited) return;
    void api.shared(caseId).then((told) => {
      [laboratories, shared] = [told.laboratories, told.people];
    });
  });
  async function share(id: string) {
    const wanted = shared.includes(id) ? shared.filter((one) => one !== id) : [...shared, id];
    await api.share(caseId, wanted);
    shared = wanted;
  }
  const at = $derived(`/api/readings/${readingId}`);
  const link =
    "inline-flex min-h-11 items-center justify-between gap-4 rounded-md border border-rule bg-card px-4 py-2 " +
    "text-base text-ink no-underline hover:border-pine";
</script>

<Popover.Root bind:open>
  <Popover.Trigger
    class="inline-flex min-h-11 items-center justify-center gap-2 rounded-md border border-rule bg-card px-3 py-2
      text-base text-ink hover:border-pine disabled:opacity-45"
    aria-label="Record"
    title={missing ? `Record: ${missing}` : "The record on one page, and the package for the laboratory"}
    disabled={missing !== ""}><FileText size={20} aria-hidden="true" /></Popover.Trigger
  >
  <Popover.Portal>
    <Popover.Content
      class="z-30 flex w-96 max-w-[92vw] flex-col gap-3 rounded-lg border border-rule bg-paper p-4 text-ink shadow-lg"
      align="end"
      sideOffset={6}
      role="dialog"
      aria-label="Record and package"
    >
      <h2 class="text-lg font-bold">Record</h2>
      <a class={link} href="{at}/record.pdf" target="_blank" rel="noopener">One page, as PDF</a>
      <a class={link} href="{at}/record.html" target="_blank" rel="noopener">The same in the browser</a>
      <h2 class="mt-1 text-lg font-bold">For the laboratory</h2>
      <label class="flex flex-col gap-1">
        <span class="text-sm text-soft">Shade, wishes, what was adjusted (no names)</span>
        <textarea
          bind:value={wishes}
          maxlength="2000"
          rows="3"
          class="rounded-md border border-rule bg-card px-3 py-2 text-base"></textarea>
      </label>
      <a class={link} href="{at}/package.zip?{new URLSearchParams({ wishes })}" download
        >Package <span class="text-sm text-soft">scans, line, path, record</span></a
      >
      {#if marks > 0}
        <a class={link} href="{at}/answer.json" download
          >Answer <span class="text-sm text-soft"
            >{marks === 1 ? "the mark" : `the ${marks} marks`} on the tooth</span
          ></a
        >
      {/if}
      <input
        bind:this={chooser}
        type="file"
        accept=".json"
        class="hidden"
        aria-label="Answer to take in"
        onchange={async () => {
          const file = chooser?.files?.[0];
          if (file) said = await answer(file);
          if (chooser) chooser.value = "";
        }}
      />
      <button type="button" class={link} onclick={() => chooser?.click()}
        >Take in an answer <span class="text-sm text-soft">their marks on this tooth</span></button
      >
      {#if said}<p role="status">{said}</p>{/if}
      {#if laboratories.length}
        <fieldset class="flex flex-col gap-1">
          <legend class="text-sm text-soft">Laboratories that see this case on the server</legend>
          {#each laboratories as one (one.id)}
            <label class="flex min-h-9 items-center gap-2"
              ><input
                type="checkbox"
                class="size-5"
                checked={shared.includes(one.id)}
                onchange={() => void share(one.id)}
              />{one.name}</label
            >
          {/each}
        </fieldset>
      {/if}
      <h2 class="mt-1 text-lg font-bold">Elsewhere</h2>
      <a class={link} href="/api/cases/{caseId}/case.zip" download
        >Whole case as one file <span class="text-sm text-soft">scans, edits, standards</span></a
      >
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
