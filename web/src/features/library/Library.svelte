<script lang="ts">
  import { onMount } from "svelte";
  import { router } from "../../router.svelte";
  import Button from "../../ui/Button.svelte";
  import Notice from "../../ui/Notice.svelte";
  import EditStandard from "./components/EditStandard.svelte";
  import Orders from "./components/Orders.svelte";
  import Standards from "./components/Standards.svelte";
  import Tray from "./components/Tray.svelte";
  import { Library } from "./state.svelte";

  const model = new Library();
  const PARTS = [
    { name: "standards", title: "Standards" },
    { name: "orders", title: "Orders of work" },
    { name: "tray", title: "Bur tray" },
    { name: "mill", title: "Mill" },
  ] as const;
  type Part = (typeof PARTS)[number]["name"];
  let part = $state<Part>(PARTS.find((p) => p.name === router.query.get("part"))?.name ?? "standards");
  onMount(() => void model.load());
  function open(name: Part) {
    part = name;
    model.edited = model.order = null;
    model.saved = "";
    router.note({ part: name });
  }
</script>

<div class="mx-auto grid h-screen max-w-7xl grid-rows-[auto_auto_minmax(0,1fr)] gap-3 px-6 py-4">
  <header class="flex flex-wrap items-center gap-3">
    <Button onclick={() => router.go("/")}>Cases</Button>
    <h1 class="text-2xl font-bold">What we judge and work by</h1>
    <div class="ml-auto flex gap-2" role="group" aria-label="Parts">
      {#each PARTS as p (p.name)}<Button pressed={part === p.name} onclick={() => open(p.name)}
          >{p.title}</Button
        >{/each}
    </div>
  </header>
  <div>
    {#if model.error}<Notice tone="error">{model.error}</Notice>{/if}
    {#if model.saved}<Notice>{model.saved}</Notice>{/if}
  </div>
  <main class="min-h-0 overflow-y-auto">
    {#if part === "standards"}
      {#if model.edited}<EditStandard {model} />{:else}<Standards {model} />{/if}
    {:else if part === "orders"}
      <Orders {model} />
    {:else if part === "tray"}
      <Tray {model} />
    {:else}
      <form
        class="flex max-w-xl flex-col gap-3"
        onsubmit={(e) => (e.preventDefault(), void model.saveMill())}
      >
        <p class="text-soft">
          A milling bur cannot follow an edge sharper than itself: there the machine cuts away ceramic. The
          mill that ships with the program is a simulated stand-in; enter the finest ball-ended bur of your
          own.
        </p>
        <label class="flex flex-col gap-1"
          ><span class="text-sm text-soft">Mill</span><input
            class="min-h-11 rounded-md border border-rule bg-card px-3"
            bind:value={model.mill.title}
          /></label
        >
        <label class="flex flex-col gap-1"
          ><span class="text-sm text-soft">Radius of its finest bur, mm</span><input
            class="min-h-11 w-40 rounded-md border border-rule bg-card px-3 text-lg"
            type="number"
            min="0.2"
            max="1"
            step="0.05"
            bind:value={model.mill.bur_radius_mm}
          /></label
        >
        <div><Button type="submit" tone="main">Keep the mill</Button></div>
      </form>
    {/if}
  </main>
</div>
