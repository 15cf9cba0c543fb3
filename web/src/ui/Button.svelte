<script lang="ts">
  import type { Snippet } from "svelte";
  import type { HTMLButtonAttributes } from "svelte/elements";

  interface Props extends HTMLButtonAttributes {
    tone?: "plain" | "main" | "danger";
    pressed?: boolean;
    children: Snippet;
  }
  let { tone = "plain", pressed, children, class: extra = "", ...rest }: Props = $props();
  const tones = {
    plain: "border-rule bg-card text-ink hover:border-pine",
    main: "border-pine bg-pine text-pine-ink font-semibold hover:opacity-90",
    danger: "border-rule bg-card text-short hover:border-short",
  };
</script>

<button
  type="button"
  aria-pressed={pressed}
  class="inline-flex min-h-11 items-center justify-center gap-2 rounded-md border px-4 py-2 text-base disabled:opacity-45
    {pressed ? 'border-pine bg-pine text-pine-ink font-semibold' : tones[tone]} {extra}"
  {...rest}
>
  {@render children()}
</button>
