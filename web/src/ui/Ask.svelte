<script lang="ts">
  import { AlertDialog } from "bits-ui";
  import type { Snippet } from "svelte";

  interface Props {
    /** What is pressed. */
    children: Snippet;
    title: string;
    text: string;
    yes: string;
    no?: string;
    onyes: () => void;
  }
  let { children, title, text, yes, no = "Keep it", onyes }: Props = $props();
  const button = "inline-flex min-h-11 items-center justify-center rounded-md border px-4 py-2 text-base";
</script>

<AlertDialog.Root>
  <AlertDialog.Trigger class="{button} border-rule bg-card text-short hover:border-short">
    {@render children()}
  </AlertDialog.Trigger>
  <AlertDialog.Portal>
    <AlertDialog.Overlay class="fixed inset-0 z-50 bg-black/40" />
    <AlertDialog.Content
      class="fixed top-1/2 left-1/2 z-50 flex w-[30rem] -translate-x-1/2 -translate-y-1/2 flex-col gap-4 rounded-lg border border-rule bg-card p-6 text-ink shadow-xl"
    >
      <AlertDialog.Title class="text-xl font-semibold">{title}</AlertDialog.Title>
      <AlertDialog.Description class="text-lg">{text}</AlertDialog.Description>
      <div class="flex justify-end gap-3">
        <AlertDialog.Cancel class="{button} border-pine bg-pine font-semibold text-pine-ink">
          {no}
        </AlertDialog.Cancel>
        <AlertDialog.Action class="{button} border-rule bg-card text-short hover:border-short" onclick={onyes}
          >{yes}</AlertDialog.Action
        >
      </div>
    </AlertDialog.Content>
  </AlertDialog.Portal>
</AlertDialog.Root>
