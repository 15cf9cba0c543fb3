<script lang="ts">
  import { serves } from "../../vocabulary.svelte";
  import Button from "../../../ui/Button.svelte";
  import Choice from "../../../ui/Choice.svelte";
  import CavityChoices from "./CavityChoices.svelte";
  import Facts from "./Facts.svelte";
  import HoleChoices from "./HoleChoices.svelte";
  import type { Meaning } from "../../../api/client";
  import { words } from "../../vocabulary.svelte";
  import type { Planning } from "../state.svelte";

  let { model }: { model: Planning } = $props();
  const fitting = $derived(
    model.standards.filter((s) => model.site && serves(s, model.site.tooth, model.site.restoration)),
  );
  const LINES = [
    { value: "1", label: "1.0 mm above" },
    { value: "0.5", label: "0.5 mm above" },
    { value: "0", label: "level" },
    { value: "-0.5", label: "0.5 mm below" },
  ];
  const TAPERS = ["3", "4", "5", "6", "8", "10"].map((v) => ({
    value: v,
    label: `${v}° a wall, ${2 * Number(v)}° in all`,
  }));
  const ENDS = [
    { value: "butt", label: "over the edge" },
    { value: "window", label: "under the edge" },
  ];
  const sequences = $derived(
    model.sequences.filter(
      (s) =>
        s.restorations.includes(model.site?.restoration ?? "full-crown") &&
        (s.teeth === "all" || s.teeth === ("123".includes(model.site?.tooth[1] ?? "6") ? "front" : "back")),
    ),
  );
  let [back, up] = $state([83, 34]);
  const lingual = $derived(model.site?.lingual_word ?? "lingual");
</script>

{#if model.case && model.site && model.choices}
  <div class="flex flex-col gap-3 px-4 py-3">
    <Choice
      label="The surface before cutting is"
      value={model.case.surface_meaning}
      items={words.all?.meanings ?? []}
      onchange={(v) => model.changeCase({ surface_meaning: v as Meaning })}
    />
    <Choice
      label="Bite"
      value={(model.case.opening ?? "").split("@").slice(0, 2).join("@")}
      items={words.all?.openings ?? []}
      onchange={(v) => model.changeCase({ opening: v })}
    />
    {#if model.case.opening}
      <details>
        <summary class="min-h-8 cursor-pointer text-sm text-soft">Hinge axis, where it was measured</summary>
        <div class="flex items-end gap-2 pt-1">
          <label class="flex flex-1 flex-col text-sm text-soft"
            >behind the lower incisors, mm<input
              class="min-h-11 rounded-md border border-rule bg-card px-2 text-base text-ink"
              type="number"
              bind:value={back}
            /></label
          >
          <label class="flex flex-1 flex-col text-sm text-soft"
            >above them, mm<input
              class="min-h-11 rounded-md border border-rule bg-card px-2 text-base text-ink"
              type="number"
              bind:value={up}
            /></label
          >
          <Button
            onclick={() =>
              model.changeCase({
                opening: `${(model.case?.opening ?? "").split("@").slice(0, 2).join("@")}@${back},${up}`,
              })}>Use</Button
          >
        </div>
      </details>
    {/if}
    <Choice
      label="Material and standard"
      value={model.site.standard_id}
      items={fitting.map((s) => ({ value: s.id, label: s.title, hint: s.reason }))}
      onchange={(id) => model.useStandard(id)}
    />
    {#if !model.forChild}
      <div class="grid grid-cols-2 gap-3">
        <Choice
          label={model.isCavity ? "Floor of a box, to gingiva" : "Finish line, to gingiva"}
          value={String(model.choices.above_gingiva_mm)}
          items={LINES}
          onchange={(v) => model.change({ above_gingiva_mm: Number(v) })}
        />
        {#if model.site.restoration === "veneer"}
          <Choice
            label="Incisal end"
            value={model.choices.incisal}
            items={ENDS}
            onchange={(v) => model.change({ incisal: v as "butt" | "window" })}
          />
        {:else if !model.isCavity && !model.isPinned}
          <Choice
            label="Taper"
            value={String(model.choices.taper_deg)}
            items={TAPERS}
            onchange={(v) => model.change({ taper_deg: Number(v) })}
          />
        {/if}
      </div>
    {/if}
    {#if model.isCavity}<CavityChoices {model} />{/if}
    {#if model.isPinned}<HoleChoices {model} />{/if}
    <Choice
      label="Order of work"
      value={model.choices.sequence ?? model.plan?.sequence.id ?? sequences[0]?.id ?? ""}
      items={sequences.map((s) => ({ value: s.id, label: s.title, hint: s.reason }))}
      onchange={(v) => model.change({ sequence: v })}
    />
    {#if !"123".includes(model.site.tooth[1] ?? "6")}
      <Choice
        label="Functional cusps"
        value={model.site.functional_side ?? "auto"}
        items={[
          { value: "auto", label: "told from jaw and bite" },
          { value: "facial", label: "facial" },
          { value: "lingual", label: lingual },
        ]}
        onchange={(v) => model.functional(v === "auto" ? null : (v as "facial" | "lingual"))}
      />
    {/if}
    <div class="flex flex-wrap gap-2">
      <Button pressed={model.pressing === "tooth"} onclick={() => (model.pressing = "tooth")}
        >{model.choices.near ? "Another tooth" : "Press on the tooth"}</Button
      >
      <Button
        pressed={model.pressing === "facial"}
        disabled={!model.choices.near}
        onclick={() => (model.pressing = "facial")}>Mark its facial side</Button
      >
    </div>
    {#if model.pressing === "tooth" || model.pressing === "facial"}
      <p class="font-semibold" role="status">
        {model.pressing === "tooth"
          ? "Press on the middle of the tooth on the sheet."
          : "Press beside the tooth, on its facial side."}
      </p>
    {/if}
    <Facts {model} />
  </div>
{/if}
