<script lang="ts">
  import type { Component } from "svelte";
  import { Help } from "./features/help";
  import Running from "./features/visit/Running.svelte";
  import { router } from "./router.svelte";
  import ArrivalNotes from "./ui/ArrivalNotes.svelte";
  import Notice from "./ui/Notice.svelte";
  import UndoNote from "./ui/UndoNote.svelte";
  import { who } from "./ui/who.svelte";
  import SignIn from "./features/people/SignIn.svelte";

  type Page = Component<{ caseId: string }>;
  interface Place {
    key: string;
    load: () => Promise<unknown>;
  }
  // A server that does not answer is told by the page itself.
  void who.load().catch(() => (who.asked = false));
  const parts = $derived(router.path.split("/").filter(Boolean));
  const caseId = $derived(parts[1] ?? "");
  const place = $derived.by<Place>(() => {
    const [first, id, last] = parts;
    const attempt = router.query.get("attempt") ?? "";
    // Each page brings what it needs: the list of cases, for one, nothing in three dimensions.
    if (first === "new")
      return { key: "new", load: () => import("./features/intake").then((m) => m.NewCase) };
    if (first === "library")
      return { key: "library", load: () => import("./features/library").then((m) => m.Library) };
    if (first === "career")
      return { key: "career", load: () => import("./features/career").then((m) => m.Career) };
    if (first === "people")
      return { key: "people", load: () => import("./features/people").then((m) => m.People) };
    if (first === "school" && id)
      return { key: `class ${id}`, load: () => import("./features/school").then((m) => m.SchoolClass) };
    if (first === "school")
      return { key: "school", load: () => import("./features/school").then((m) => m.School) };
    if (first !== "case" || !id)
      return { key: "cases", load: () => import("./features/cases").then((m) => m.Cases) };
    if (last === "scans")
      return { key: `scans ${id} ${attempt}`, load: () => import("./features/intake").then((m) => m.Intake) };
    if (last === "plan")
      return { key: `plan ${id}`, load: () => import("./features/plan").then((m) => m.Plan) };
    if (last === "visit")
      return { key: `visit ${id}`, load: () => import("./features/visit").then((m) => m.Visit) };
    if (last === "look")
      return { key: `look ${id} ${attempt}`, load: () => import("./features/school").then((m) => m.Look) };
    if (last === "bridge")
      return {
        key: `bridge ${id} ${attempt}`,
        load: () => import("./features/bridge").then((m) => m.Bridge),
      };
    return { key: `case ${id} ${attempt}`, load: () => import("./features/examine").then((m) => m.Examine) };
  });
</script>

{#if who.asked === null}
  <p class="p-8 text-lg text-soft" role="status">Opening …</p>
{:else if who.outside}
  <SignIn />
{:else}
  {#key place.key}
    {#await place.load()}
      <p class="p-8 text-lg text-soft" role="status">Opening …</p>
    {:then found}
      {@const Shown = found as Page}
      <Shown {caseId} />
    {:catch}
      <div class="p-8"><Notice tone="error">This page could not be loaded; reload it.</Notice></div>
    {/await}
  {/key}
  {#if !who.limited}
    <Running caseId={parts[0] === "case" ? caseId : ""} />
    <ArrivalNotes />
  {/if}
{/if}
<Help />
<UndoNote />
