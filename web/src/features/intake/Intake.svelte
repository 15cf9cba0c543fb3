<script lang="ts">
  import { onMount } from "svelte";
  import { router } from "../../router.svelte";
  import Ask from "../../ui/Ask.svelte";
  import Button from "../../ui/Button.svelte";
  import Choice from "../../ui/Choice.svelte";
  import Meter from "../../ui/Meter.svelte";
  import Notice from "../../ui/Notice.svelte";
  import AxesView from "./components/AxesView.svelte";
  import PointOut from "./components/PointOut.svelte";
  import Teeth from "./components/Teeth.svelte";
  import { Intake } from "./state.svelte";
  import { plainFacts, ROLES, UNITS } from "./teeth";

  let { caseId }: { caseId: string } = $props();
  // The page is keyed by case and attempt, so both stay as they are for its whole life.
  // svelte-ignore state_referenced_locally
  const model = new Intake(caseId, router.query.get("attempt") ?? "");
  let over = $state(false);

  onMount(() => {
    void model.load();
    return () => model.leave();
  });

  function drop(event: DragEvent) {
    event.preventDefault();
    over = false;
    if (event.dataTransfer) void model.add(event.dataTransfer.files);
  }
  const site = $derived(model.site);
  const busy = $derived(model.job && (model.job.state === "waiting" || model.job.state === "running"));
</script>

<main class="mx-auto flex max-w-5xl flex-col gap-5 px-6 py-6">
  <header class="flex items-center gap-4">
    <Button
      onclick={() =>
        router.go(model.detail?.job?.state === "done" ? `/case/${caseId}?attempt=${model.readingId}` : "/")}
      >Back</Button
    >
    <h1 class="text-3xl font-bold">
      {model.case?.code ?? ""} · {site
        ? `scans of tooth ${site.tooth}, attempt ${model.number ?? ""}`
        : "scans"}
    </h1>
    {#if site && site.readings.length > 1}
      <div class="ml-auto">
        <Ask
          title="Put attempt {model.number} away?"
          text="It leaves the case with its scan and its measurement. It can be taken back for thirty days."
          yes="Put away"
          onyes={() => void model.putAway()}>Put this attempt away</Ask
        >
      </div>
    {/if}
  </header>
  {#if model.error}<Notice tone="error">{model.error}</Notice>{/if}

  <label
    class="flex min-h-28 cursor-pointer flex-col items-center justify-center gap-1 rounded-lg border-2 border-dashed bg-card px-4 py-4 text-center {over
      ? 'border-pine'
      : 'border-rule'}"
    ondragover={(e) => (e.preventDefault(), (over = true))}
    ondragleave={() => (over = false)}
    ondrop={drop}
  >
    <span class="text-xl font-semibold">Drop scan files here, or press to choose</span>
    <span class="text-soft"
      >STL, PLY or OBJ, also .gz or .zip. The preparation is needed; the scan before cutting and the opposing
      teeth say more.</span
    >
    <input
      class="sr-only"
      type="file"
      multiple
      accept=".stl,.ply,.obj,.gz,.zip"
      aria-label="Scan files"
      onchange={(e) => model.add(e.currentTarget.files ?? [])}
    />
  </label>

  {#each model.uploads as upload (upload)}
    {#if upload.state === "reading"}
      <Notice>Reading {upload.name} …</Notice>
    {:else}
      <Notice tone="error"
        ><b>Not added.</b> {upload.error} <span class="text-soft">The case is as it was.</span></Notice
      >
    {/if}
  {/each}

  <ul class="flex flex-col gap-3">
    {#each model.scans as scan (scan.id)}
      <li class="rounded-lg border border-rule bg-card px-4 py-3" aria-label="Scan {scan.name}">
        <div class="flex flex-wrap items-end gap-3">
          <span class="min-w-48 flex-1 self-center text-lg font-semibold break-all">{scan.name}</span>
          <div class="w-52">
            <Choice
              label="This is"
              value={scan.role}
              items={ROLES}
              onchange={(role) => model.change(scan, role, scan.unit)}
            />
          </div>
          <div class="w-40">
            <Choice
              label="Unit"
              value={scan.unit}
              items={UNITS}
              onchange={(unit) => model.change(scan, scan.role, unit)}
            />
          </div>
          <Ask
            title="Take {scan.name} out?"
            text="The scan is deleted from this case{scan.role === 'prep'
              ? ''
              : ', for all its attempts'}. Its file can be added again."
            yes="Take out"
            onyes={() => void model.remove(scan)}>Take out</Ask
          >
        </div>
        <p class="pt-1 text-sm text-soft">{plainFacts(scan.facts)}</p>
        {#if !scan.unit_sure}
          <div class="flex items-center gap-3 pt-2">
            <p class="font-semibold text-short">
              Is this file in {UNITS.find((u) => u.value === scan.unit)?.label}? Its size leaves doubt.
            </p>
            <Button onclick={() => model.change(scan, scan.role, scan.unit)}>Yes</Button>
          </div>
        {:else if scan.unit !== "mm"}
          <p class="pt-1 text-sm">
            The file is in {UNITS.find((u) => u.value === scan.unit)?.label}; it is shown and measured in
            millimetres.
          </p>
        {/if}
        {#each [...((scan.facts.said as string[]) ?? []), ...((scan.facts.remarks as string[]) ?? [])] as said (said)}
          <p class="pt-1 text-sm">{said}</p>
        {/each}
        {#if scan.facts.role_sure === false}<p class="pt-1 text-sm">
            Which scan this is was guessed from the order; check it.
          </p>{/if}
      </li>
    {/each}
  </ul>

  {#each site?.put_away ?? [] as away (away.id)}
    <Notice>
      <span class="flex items-center gap-3"
        >Attempt {away.number} was put away on {away.put_away_at.slice(0, 10)}.
        <Button onclick={() => void model.takeBack(away.id)}>Take back</Button></span
      >
    </Notice>
  {/each}

  {#if model.prep}
    {#each model.scans.filter((s) => s.role === "preop" || s.role === "mockup") as earlier (earlier.id)}
      <PointOut {model} {earlier} prep={model.prep} begin={router.query.get("pairs") === earlier.role} />
    {/each}
    <section class="flex flex-col gap-3" aria-label="Axes">
      <h2 class="text-xl font-semibold">Axes of the tooth</h2>
      {#if model.guess}
        <AxesView
          hash={model.prep.light_hash}
          guess={model.guess}
          lingual={site?.lingual_word ?? "lingual"}
        />
        {#each model.guess.warnings as warning (warning)}<Notice tone="error">{warning}</Notice>{/each}
        <div class="flex flex-wrap items-center gap-3">
          <Button tone={model.confirmed ? "plain" : "main"} onclick={() => model.confirmAxes()}
            >{model.confirmed ? "Confirmed" : "Yes, that is right"}</Button
          >
          <Button onclick={() => model.swapSides()}>Facial is on the other side</Button>
          <span class="text-soft"
            >{model.guess.sure
              ? `Confidence ${(100 * model.guess.confidence).toFixed(0)} %`
              : "The guess is weak: look and confirm."}</span
          >
        </div>
      {:else}
        <div class="flex items-center gap-3">
          <Button onclick={() => model.findAxes()} disabled={model.looking}
            >{model.looking ? "Looking for the tooth …" : "Show the guessed axes"}</Button
          >
          <span class="text-soft"
            >{model.confirmed ? "Confirmed by hand." : "Found from the scan; look once and confirm."}</span
          >
        </div>
      {/if}
    </section>
    {#if model.case && site}
      <Teeth
        of={model.case}
        {site}
        attempt={model.number ?? 1}
        failed={(e) => (model.error = e instanceof Error ? e.message : String(e))}
      />
    {/if}
    <section class="flex flex-col gap-3 border-t border-rule pt-4" aria-label="Measure">
      {#if busy && model.job}
        <Meter share={model.job.share} text={model.job.text} />
        <div><Button tone="danger" onclick={() => model.cancel()}>Cancel</Button></div>
      {:else}
        <div class="flex items-center gap-4">
          <Button tone="main" class="text-lg" disabled={!model.ready} onclick={() => model.measure()}
            >Measure</Button
          >
          {#if model.doubtfulUnit}<span class="text-short">Confirm the unit first.</span>{/if}
          {#if model.job?.state === "cancelled"}<span class="text-soft">Cancelled; nothing was lost.</span
            >{/if}
        </div>
      {/if}
    </section>
  {/if}
</main>
