<script lang="ts">
  import Button from "../../../ui/Button.svelte";
  import { rowsOf, type Library } from "../state.svelte";

  let { model }: { model: Library } = $props();
  const rows = $derived([
    ...new Map(model.shown.flatMap((s) => rowsOf(s)).map((r) => [`${r.table}/${r.key}`, r])).values(),
  ]);
  const groups = $derived(
    (["back", "front", "canine"] as const).map((teeth) => ({
      teeth,
      title: { back: "Back teeth", front: "Front teeth", canine: "Canines" }[teeth],
      items: model.standards.filter((s) => s.teeth === teeth),
    })),
  );
  const fig = (v: number) => v.toFixed(2).replace(/0$/, "");
</script>

<div class="grid min-h-0 grid-cols-[20rem_minmax(0,1fr)] gap-5">
  <nav class="flex flex-col gap-3 overflow-y-auto" aria-label="Standards">
    {#each groups as group (group.teeth)}
      {#if group.items.length}
        <h2 class="text-sm text-soft">{group.title}</h2>
        {#each group.items as standard (standard.id)}
          <button
            type="button"
            aria-pressed={model.compared.includes(standard.id)}
            class="rounded-md border px-3 py-2 text-left {model.compared.includes(standard.id)
              ? 'border-pine bg-pine/15'
              : 'border-rule bg-card'}"
            onclick={() => model.toggle(standard.id)}
          >
            <span class="block font-semibold"
              >{standard.title}{#if standard.own}<span class="ml-1 text-sm font-normal text-soft"
                  >own, version {standard.version}</span
                >{/if}</span
            >
            <span class="block text-sm text-soft">{standard.reason}</span>
          </button>
        {/each}
      {/if}
    {/each}
  </nav>
  <section class="min-w-0 overflow-auto">
    <p class="pb-2 text-soft">
      Minimum / <b>target</b> / maximum in mm: below the minimum the material or the work fails, the target is what
      a good hand aims at, above the maximum tooth is cut needlessly. Choose up to three to compare.
    </p>
    <table class="w-full border-collapse text-base">
      <thead>
        <tr class="border-b-2 border-ink text-left align-top">
          <th class="py-2 pr-3 font-normal text-soft">place</th>
          {#each model.shown as standard (standard.id)}
            <th class="py-2 pr-3">
              <span class="block">{standard.title}</span>
              <span class="block text-sm font-normal text-soft">version {standard.version}</span>
              <Button size="slim" class="mt-1" onclick={() => model.edit(standard)}
                >{standard.own ? "Edit" : "Copy and edit"}</Button
              >
            </th>
          {/each}
        </tr>
      </thead>
      <tbody>
        {#each rows as row (row.table + row.key)}
          <tr class="border-b border-rule align-top">
            <th class="py-1.5 pr-3 text-left font-normal">{row.title}</th>
            {#each model.shown as standard (standard.id)}
              {@const limits = standard[row.table][row.key]}
              <td class="py-1.5 pr-3" title={limits?.source}>
                {#if limits}{fig(limits.min)} / <b>{fig(limits.target)}</b> / {fig(limits.max)}
                  <span class="block text-xs text-soft">{limits.source.split(" (")[0]}</span>{:else}<span
                    class="text-soft">as its neighbour</span
                  >{/if}
              </td>
            {/each}
          </tr>
        {/each}
        <tr class="border-b border-rule align-top">
          <th class="py-1.5 pr-3 text-left font-normal">finish line form</th>
          {#each model.shown as standard (standard.id)}
            <td class="py-1.5 pr-3"
              >{#each Object.entries(standard.finish_line_form) as [side, forms] (side)}<span class="block"
                  >{side === "all" ? "" : `${side}: `}{forms.join(" or ").replaceAll("-", " ")}</span
                >{/each}</td
            >
          {/each}
        </tr>
        <tr class="align-top">
          <th class="py-1.5 pr-3 text-left font-normal">beware</th>
          {#each model.shown as standard (standard.id)}<td class="py-1.5 pr-3">{standard.caution || "–"}</td
            >{/each}
        </tr>
      </tbody>
    </table>
    <p class="pt-3 text-sm text-soft">
      The manufacturer's instructions for the very material come first. Lower incisors: the finish line is
      capped at 0.3 / 0.4 / 0.5 whatever the standard says.
    </p>
  </section>
</div>
