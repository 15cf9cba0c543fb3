<script lang="ts">
  import { CircleHelp, Moon, Sun } from "@lucide/svelte";
  import Button from "./Button.svelte";
  import { help } from "./help.svelte";
  import { theme } from "./theme.svelte";
</script>

<Button
  size="slim"
  aria-label="Help"
  title="Keys, parts of the screen, words (?)"
  onclick={() => help.toggle()}><CircleHelp size={20} aria-hidden="true" /></Button
>
<Button size="slim" aria-label={theme.dim ? "Light theme" : "Dim theme"} onclick={() => theme.toggle()}>
  {#if theme.dim}<Sun size={20} aria-hidden="true" />{:else}<Moon size={20} aria-hidden="true" />{/if}
</Button>
