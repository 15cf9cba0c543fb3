<script lang="ts">
  import { CircleHelp, Moon, Sun, User } from "@lucide/svelte";
  import Button from "./Button.svelte";
  import { help } from "./help.svelte";
  import { router } from "../router.svelte";
  import { theme } from "./theme.svelte";
  import { who } from "./who.svelte";
</script>

{#if who.person}
  <Button
    size="slim"
    aria-label="You: {who.person.name}"
    title="{who.person.name}, {who.person.role}: sign out, password"
    onclick={() => router.go("/people")}><User size={20} aria-hidden="true" /></Button
  >
{/if}
<Button
  size="slim"
  aria-label="Help"
  title="Keys, parts of the screen, words (?)"
  onclick={() => help.toggle()}><CircleHelp size={20} aria-hidden="true" /></Button
>
<Button size="slim" aria-label={theme.dim ? "Light theme" : "Dim theme"} onclick={() => theme.toggle()}>
  {#if theme.dim}<Sun size={20} aria-hidden="true" />{:else}<Moon size={20} aria-hidden="true" />{/if}
</Button>
