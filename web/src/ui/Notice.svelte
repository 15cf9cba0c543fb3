<script lang="ts">
  import type { Snippet } from "svelte";

  let { tone = "plain", children }: { tone?: "plain" | "error"; children: Snippet } = $props();
</script>

<div
  role={tone === "error" ? "alert" : "status"}
  class="rounded-md border-l-4 bg-card px-4 py-3 {tone === 'error' ? 'border-short' : 'border-pine'}"
>
  {@render children()}
</div>
