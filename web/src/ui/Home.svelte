<script lang="ts">
  import { router } from "../router.svelte";
</script>

<a
  href="/"
  class="text-xl font-bold text-ink no-underline"
  onclick={(e) => (e.preventDefault(), router.go("/"))}>Vane Line</a
>
