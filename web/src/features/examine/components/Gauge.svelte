<script lang="ts">
  import { gaugeMarks, type GaugeInput } from "../gauge";

  let { value, U, min, target, max }: GaugeInput = $props();
  const marks = $derived(gaugeMarks({ value, U, min, target, max }));
  const x = (share: number) => 6 + share * 308;
</script>

<svg
  viewBox="0 0 320 58"
  class="w-full"
  role="img"
  aria-label="measured {value.toFixed(2)} mm, give or take {U.toFixed(2)}"
>
  <line x1="6" x2="314" y1="26" y2="26" stroke="var(--rule)" stroke-width="2" />
  {#if marks.min !== null && marks.max !== null}
    <rect
      x={x(marks.min)}
      width={x(marks.max) - x(marks.min)}
      y="19"
      height="14"
      fill="var(--pine)"
      opacity="0.22"
    />
  {/if}
  {#each [["min", marks.min, min], ["target", marks.target, target], ["max", marks.max, max]] as const as [name, share, figure] (name)}
    {#if share !== null && figure !== null}
      <line
        x1={x(share)}
        x2={x(share)}
        y1="14"
        y2="38"
        stroke="var(--ink)"
        stroke-width={name === "target" ? 1 : 2}
        stroke-dasharray={name === "target" ? "3 2" : ""}
      />
      <text x={x(share)} y="52" text-anchor="middle" font-size="13" fill="var(--soft)">{name} {figure}</text>
    {/if}
  {/each}
  <rect
    x={x(marks.from)}
    width={Math.max(2, x(marks.to) - x(marks.from))}
    y="22"
    height="8"
    fill="var(--short)"
    opacity="0.45"
  />
  <path d="M {x(marks.value)} 20 l -6 -11 h 12 z" fill="var(--short)" />
</svg>
