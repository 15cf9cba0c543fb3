<script lang="ts">
  import type { Examine } from "../state.svelte";

  let { model }: { model: Examine } = $props();
  const rows = $derived(model.document?.corrections ?? []);
  $effect(() => {
    if (model.todo.chosen >= 0)
      document.getElementById(`todo-${model.todo.chosen}`)?.scrollIntoView({ block: "nearest" });
  });
  const done = $derived(rows.filter((c) => model.detail?.ticks.includes(c.key)).length);
</script>

<p class="border-b border-rule px-4 py-2 text-soft">
  {rows.length - done} to do, {done} ticked off. The next scan tells whether they are done.
  <span class="block text-sm"><kbd>N</kbd> next, <kbd>K</kbd> tick off</span>
</p>
<ol aria-label="Worklist, in the order of work">
  {#each rows as c, index (c.key + c.stage)}
    {@const ticked = model.detail?.ticks.includes(c.key) ?? false}
    <li
      id="todo-{index}"
      class="flex items-start gap-3 border-b border-rule px-3 py-3
        {index === model.todo.chosen ? 'border-l-4 border-l-pine' : ''} {c.refused ? 'bg-paper' : ''}"
      aria-current={index === model.todo.chosen}
    >
      <button
        type="button"
        class="grid h-12 w-12 shrink-0 place-items-center rounded-md border-2 text-2xl font-bold
          {ticked ? 'border-pine bg-pine text-pine-ink' : 'border-rule bg-card'}"
        aria-pressed={ticked}
        aria-label="{ticked ? '✓' : c.order}, tick off {c.where}"
        onclick={() => model.todo.tick(c.key)}>{ticked ? "✓" : c.order}</button
      >
      <button
        type="button"
        class="min-w-0 flex-1 text-left {ticked ? 'opacity-60' : ''}"
        onclick={() => model.todo.choose(index)}
      >
        <span class="block text-lg leading-tight font-semibold first-letter:uppercase">{c.where}</span>
        <span class="block first-letter:uppercase {c.refused ? 'line-through' : ''}">{c.do}</span>
        {#if c.refused}<span class="block font-semibold text-short">Not so: {c.refused}.</span>{/if}
        {#if c.bur}<span class="block text-sm">{c.bur}</span>{/if}
        {#if c.hold}<span class="block text-sm text-soft">{c.hold}; view: {c.view}</span>{/if}
        {#if c.beware}<span class="block text-sm text-soft">Beware: {c.beware}.</span>{/if}
      </button>
    </li>
  {:else}
    <li class="px-4 py-6 text-lg">Nothing to correct by hand in what could be measured.</li>
  {/each}
</ol>
