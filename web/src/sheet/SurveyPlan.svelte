<script lang="ts">
  import { dot, type Vec } from "./vectors";
  import type { Frame, ViewName } from "./views";

  /** A small plan of the tooth as it is seen from above, by its finish line: press a side to look from there. */
  interface Props {
    view: ViewName | null;
    frame: Frame | null;
    centre: Vec;
    points: number[][];
    lingual: string;
    mesialRight: boolean;
    look: (view: ViewName) => void;
  }
  let { view, frame, centre, points, lingual, mesialRight, look }: Props = $props();

  const HALF = 66;
  const REACH = 30; // of the tooth's outline, from the middle

  /** The finish line, which is the tooth's own outline, seen from above. */
  const outline = $derived.by(() => {
    if (!frame || points.length < 8) return "";
    const flat = points.map((p) => {
      const off = p.map((v, k) => v - centre[k as 0 | 1 | 2]) as unknown as Vec;
      return [(mesialRight ? 1 : -1) * dot(off, frame.mesial), -dot(off, frame.facial)] as const;
    });
    const most = Math.max(...flat.map(([x, y]) => Math.hypot(x, y)));
    const at = flat
      .filter((_, k) => k % 6 === 0)
      .map(([x, y]) => `${(x / most) * REACH} ${(y / most) * REACH}`);
    return `M${at.join("L")}Z`;
  });

  const petals = $derived<{ name: ViewName; title: string; key: string; turn: number }[]>([
    { name: "facial", title: "facial", key: "F", turn: 0 },
    { name: mesialRight ? "mesial" : "distal", title: mesialRight ? "mesial" : "distal", key: mesialRight ? "M" : "D", turn: 90 },
    { name: "lingual", title: lingual, key: "L", turn: 180 },
    { name: mesialRight ? "distal" : "mesial", title: mesialRight ? "distal" : "mesial", key: mesialRight ? "D" : "M", turn: 270 },
  ]); // prettier-ignore

  const PETAL = "M-29 -36 Q0 -60 29 -36 L44 -51 Q0 -84 -44 -51 Z";
  const place = (turn: number, by: number) => {
    const a = (turn * Math.PI) / 180;
    return { x: by * Math.sin(a), y: -by * Math.cos(a) };
  };
  function press(event: KeyboardEvent, name: ViewName) {
    if (event.key !== "Enter" && event.key !== " ") return;
    event.preventDefault();
    event.stopPropagation();
    look(name);
  }
</script>

<svg
  class="h-33 w-33 rounded-full bg-card/90 select-none"
  viewBox="{-HALF} {-HALF} {2 * HALF} {2 * HALF}"
  role="group"
  aria-label="Views"
>
  {#each petals as petal (petal.turn)}
    {@const on = view === petal.name}
    {@const at = place(petal.turn, 53)}
    <g
      role="button"
      tabindex="0"
      aria-label="From {petal.title} ({petal.key})"
      aria-pressed={on}
      class="cursor-pointer {on ? 'fill-pine' : 'fill-card hover:fill-paper'}"
      onclick={() => look(petal.name)}
      onkeydown={(e) => press(e, petal.name)}
    >
      <title>From {petal.title} ({petal.key})</title>
      <path d={PETAL} transform="rotate({petal.turn}) scale(0.98)" class="stroke-rule" />
      <text
        x={at.x}
        y={at.y + 5}
        text-anchor="middle"
        class="text-sm font-semibold {on ? 'fill-pine-ink' : 'fill-ink'}">{petal.key}</text
      >
    </g>
  {/each}
  <g
    role="button"
    tabindex="0"
    aria-label="From occlusal (O)"
    aria-pressed={view === "occlusal"}
    class="cursor-pointer {view === 'occlusal' ? 'fill-pine' : 'fill-card hover:fill-paper'}"
    onclick={() => look("occlusal")}
    onkeydown={(e) => press(e, "occlusal")}
  >
    <title>From occlusal (O)</title>
    {#if outline}<path d={outline} class="stroke-pine" stroke-width="1.5" />{:else}<circle
        r={REACH}
        class="stroke-pine"
      />{/if}
    <text
      y="5"
      text-anchor="middle"
      class="text-sm font-semibold {view === 'occlusal' ? 'fill-pine-ink' : 'fill-ink'}">O</text
    >
  </g>
</svg>
