<script lang="ts" module>
  import type { Component } from "svelte";

  /** One thing that is pressed on or off over a sheet. */
  export interface Tool {
    title: string;
    hint: string;
    icon: Component;
    on: boolean;
    off?: boolean;
    press: () => void;
  }
</script>

<script lang="ts">
  /** Tools of a sheet in one row; where it is narrow, by their pictures alone. */
  let { tools, part }: { tools: Tool[]; part?: string } = $props();
</script>

<div
  class="flex flex-wrap overflow-hidden rounded-md border border-rule bg-card/95"
  role="group"
  aria-label="Tools of the sheet"
  data-picture="no"
  data-walk="tools"
  data-part={part}
>
  {#each tools as tool (tool.title)}
    <button
      type="button"
      aria-pressed={tool.on}
      disabled={tool.off}
      title={tool.hint}
      class="flex min-h-11 items-center gap-1.5 border-r border-rule px-2.5 text-[0.95rem] whitespace-nowrap last:border-r-0 hover:bg-paper disabled:opacity-45
        {tool.on ? 'bg-pine font-semibold text-pine-ink hover:bg-pine' : ''}"
      onclick={tool.press}
    >
      <tool.icon size={18} aria-hidden="true" /><span class="@max-[42rem]:sr-only">{tool.title}</span>
    </button>
  {/each}
</div>
