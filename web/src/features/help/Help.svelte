<script lang="ts">
  import { Dialog } from "bits-ui";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import { help } from "../../ui/help.svelte";
  import { words } from "../vocabulary.svelte";
  import { keysOf, WALK } from "./parts";

  /** Over any screen: what its parts say, its keys, the words; and the first walk. */
  interface Spot {
    x: number;
    y: number;
    w: number;
    h: number;
    text: string;
  }
  let spots = $state<Spot[]>([]);
  let tab = $state<"screen" | "words">("screen");
  let sought = $state("");
  let drawn = $state(0); // counts measurings of the page

  const place = (element: Element): Omit<Spot, "text"> => {
    const box = element.getBoundingClientRect();
    return { x: box.left, y: box.top, w: box.width, h: box.height };
  };
  const seen = (s: Omit<Spot, "text">) => s.w > 8 && s.h > 8 && s.y < innerHeight && s.x < innerWidth;
  $effect(() => {
    void drawn;
    if (!help.open) return;
    void words.load().catch(() => {});
    spots = [...document.querySelectorAll<HTMLElement>("[data-part]")]
      .map((element) => ({ ...place(element), text: element.dataset.part ?? "" }))
      .filter(seen);
  });

  const step = $derived(help.step === null ? null : (WALK[help.step] ?? null));
  const pointed = $derived.by<Omit<Spot, "text"> | null>(() => {
    void drawn;
    const element = step && document.querySelector(`[data-walk="${step.at}"]`);
    return element ? place(element) : null;
  });
  // The page may still be coming while the walk begins.
  $effect(() => {
    if (help.step === null) return;
    const again = setInterval(() => (drawn += 1), 300);
    return () => clearInterval(again);
  });
  /** The card stands where it does not cover what it points at. */
  const card = $derived.by(() => {
    if (!pointed) return "left: 50%; top: 50%; transform: translate(-50%, -50%)";
    const right = pointed.x + pointed.w / 2 > innerWidth / 2;
    const below = pointed.y + pointed.h < innerHeight * 0.6;
    const x = right
      ? `right: ${Math.max(16, innerWidth - pointed.x - pointed.w)}px`
      : `left: ${Math.max(16, pointed.x)}px`;
    const inside = pointed.h > innerHeight * 0.5;
    const y = inside
      ? "top: 40%"
      : below
        ? `top: ${pointed.y + pointed.h + 14}px`
        : `bottom: ${innerHeight - pointed.y + 14}px`;
    return `${x}; ${y}`;
  });
  const glossary = $derived(
    Object.entries(words.all?.glossary ?? {}).filter(([word, text]) =>
      `${word} ${text}`.toLowerCase().includes(sought.trim().toLowerCase()),
    ),
  );

  function key(event: KeyboardEvent) {
    if (event.key === "Escape" && help.step !== null) {
      help.leave();
      event.stopImmediatePropagation();
    } else if (event.key === "?" && !(event.target as HTMLElement).closest("input, textarea")) {
      help.toggle();
      event.preventDefault();
    }
  }
  function on() {
    if (help.step === null) return;
    if (help.step + 1 < WALK.length) help.step += 1;
    else help.leave();
  }
</script>

<svelte:window onkeydowncapture={key} onresize={() => (drawn += 1)} />

<Dialog.Root bind:open={() => help.open, (open) => open !== help.open && help.toggle()}>
  <Dialog.Portal>
    <Dialog.Overlay class="pointer-events-none fixed inset-0 z-60 bg-black/25" aria-hidden="true">
      {#if tab === "screen"}
        {#each spots as spot, k (k)}
          <div
            class="absolute rounded-md border-2 border-short"
            style="left: {spot.x}px; top: {spot.y}px; width: {spot.w}px; height: {spot.h}px"
          >
            <b
              class="absolute top-1 left-1 grid h-8 w-8 place-items-center rounded-full bg-short text-lg text-card"
              >{k + 1}</b
            >
          </div>
        {/each}
      {/if}
    </Dialog.Overlay>
    <Dialog.Content
      class="fixed top-1/2 left-1/2 z-60 flex max-h-[84vh] w-[32rem] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 flex-col gap-3 rounded-lg border border-rule bg-card p-5 text-ink shadow-xl"
    >
      <Dialog.Title class="sr-only">Help</Dialog.Title>
      <div class="flex flex-wrap items-center gap-2" role="group" aria-label="Help about">
        <Button pressed={tab === "screen"} onclick={() => (tab = "screen")}>This screen</Button>
        <Button pressed={tab === "words"} onclick={() => (tab = "words")}>Words</Button>
        <Dialog.Close class="ml-auto min-h-11 rounded-md border border-rule px-4">Close</Dialog.Close>
      </div>
      <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
      <div class="min-h-0 overflow-y-auto" tabindex="0" role="region" aria-label="Help text">
        {#if tab === "screen"}
          {#if spots.length}
            <ol class="flex list-decimal flex-col gap-1 pb-3 pl-7 text-base">
              {#each spots as spot, k (k)}<li>{spot.text}</li>{/each}
            </ol>
          {/if}
          <dl class="grid grid-cols-[8rem_1fr] gap-x-3 gap-y-1 text-base">
            {#each keysOf(router.path) as row (row.key)}
              <dt class="font-semibold">{row.key}</dt>
              <dd>{row.does}</dd>
            {/each}
          </dl>
        {:else}
          <label class="flex flex-col gap-1 pb-3"
            ><span class="text-sm text-soft">Find a word</span>
            <input
              type="search"
              class="min-h-11 rounded-md border border-rule bg-card px-3 text-base"
              bind:value={sought}
            /></label
          >
          <dl class="flex flex-col gap-2 text-base">
            {#each glossary as [word, text] (word)}
              <div>
                <dt class="font-semibold first-letter:uppercase">{word}</dt>
                <dd class="text-soft">{text}</dd>
              </div>
            {:else}<p class="text-soft">No word holds this.</p>{/each}
          </dl>
        {/if}
      </div>
    </Dialog.Content>
  </Dialog.Portal>
</Dialog.Root>

{#if step && help.step !== null}
  {#if pointed}
    <div
      class="pointer-events-none fixed z-60 rounded-md border-4 border-short"
      style="left: {pointed.x - 4}px; top: {pointed.y - 4}px; width: {pointed.w + 8}px; height: {pointed.h +
        8}px"
      aria-hidden="true"
    ></div>
  {/if}
  <div
    class="fixed z-60 flex w-96 max-w-[94vw] flex-col gap-2 rounded-lg border-2 border-short bg-card p-4 text-ink shadow-xl"
    style={card}
    role="dialog"
    aria-label="First walk, step {help.step + 1} of {WALK.length}"
  >
    <p class="text-sm text-soft">First walk, {help.step + 1} of {WALK.length}</p>
    <h2 class="text-xl font-bold">{step.title}</h2>
    <p class="text-lg leading-snug">{step.says}</p>
    <div class="flex justify-end gap-2">
      <Button onclick={() => help.leave()}>Leave</Button>
      <Button tone="main" onclick={on}>{help.step + 1 < WALK.length ? "On" : "Done"}</Button>
    </div>
  </div>
{/if}
