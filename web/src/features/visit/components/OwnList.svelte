<script lang="ts" generics="T extends { revision: number; own: boolean }">
  import { onMount, type Snippet } from "svelte";
  import { sentenceOf } from "../../../api/client";
  import Button from "../../../ui/Button.svelte";
  import Notice from "../../../ui/Notice.svelte";

  /** A list that the surgery makes its own: what is kept holds for every visit from then on. */
  interface Props {
    label: string;
    load: () => Promise<T>;
    keep: (list: T) => Promise<unknown>;
    forget: (revision: number) => Promise<unknown>;
    leave: () => void;
    /** Its rows, to be edited; and one more. */
    rows: Snippet<[T]>;
    add: (list: T) => void;
    addWords: string;
    backWords: string;
    said: string;
  }
  let { label, load, keep, forget, leave, rows, add, addWords, backWords, said }: Props = $props();
  let list = $state<T | null>(null);
  let error = $state("");

  onMount(() => void attempt(async () => void (list = await load())));
  async function attempt(work: () => Promise<void>) {
    error = "";
    try {
      await work();
    } catch (e) {
      error = sentenceOf(e);
    }
  }
  const done = (work: (list: T) => Promise<unknown>) =>
    void attempt(async () => {
      if (list) await work($state.snapshot(list) as T);
      leave();
    });
</script>

<form
  class="flex flex-col gap-3 p-4"
  aria-label={label}
  onsubmit={(e) => (e.preventDefault(), done((list) => keep(list)))}
>
  {#if error}<Notice tone="error">{error}</Notice>{/if}
  {#if list}{@render rows(list)}{/if}
  <div class="flex flex-wrap gap-3">
    <Button onclick={() => list && add(list)}>{addWords}</Button>
    <Button type="submit" tone="main">Keep</Button>
    <Button onclick={leave}>Give up</Button>
    {#if list?.own}<Button onclick={() => done((list) => forget(list.revision))}>{backWords}</Button>{/if}
  </div>
  <p class="text-sm text-soft">{said}</p>
</form>
