<script lang="ts">
  import type { Snippet } from "svelte";
  import type { HTMLButtonAttributes } from "svelte/elements";

  interface Props extends HTMLButtonAttributes {
    tone?: "plain" | "main" | "danger";
    pressed?: boolean;
    /** How much room is left and right of its words. */
    size?: "usual" | "slim" | "tight";
    children: Snippet;
  }
  let { tone = "plain", size = "usual", pressed, children, class: extra = "", ...rest }: Props = $props();
  const tones = {
    plain: "border-rule bg-card text-ink hover:border-pine",
    main: "border-pine bg-pine text-pine-ink font-semibold hover:opacity-90",
    danger: "border-rule bg-card text-short hover:border-short",
  };
  const sizes = { usual: "px-4", slim: "px-3", tight: "px-2" };
</script>

<button
  type="button"
  aria-pressed={pressed}
  class="inline-flex min-h-11 items-center justify-center gap-2 rounded-md border {sizes[
    size
  ]} py-2 text-base disabled:opacity-45
    {pressed ? 'border-pine bg-pine text-pine-ink font-semibold' : tones[tone]} {extra}"
  {...rest}
>
  {@render children()}
</button>
