<script lang="ts">
  import { Cases } from "./features/cases";
  import { Examine } from "./features/examine";
  import { Intake, NewCase } from "./features/intake";
  import { Library } from "./features/library";
  import { Plan } from "./features/plan";
  import { router } from "./router.svelte";
  import ArrivalNotes from "./ui/ArrivalNotes.svelte";

  const parts = $derived(router.path.split("/").filter(Boolean));
</script>

{#if parts[0] === "new"}
  <NewCase />
{:else if parts[0] === "case" && parts[1] && parts[2] === "scans"}
  {#key parts[1] + (router.query.get("attempt") ?? "")}<Intake caseId={parts[1]} />{/key}
{:else if parts[0] === "case" && parts[1] && parts[2] === "plan"}
  {#key parts[1]}<Plan caseId={parts[1]} />{/key}
{:else if parts[0] === "library"}
  <Library />
{:else if parts[0] === "case" && parts[1]}
  {#key parts[1] + (router.query.get("attempt") ?? "")}<Examine caseId={parts[1]} />{/key}
{:else}
  <Cases />
{/if}
<ArrivalNotes />
