<script lang="ts">
  import type { Contact } from "../../../api/client";

  /** A contact's sign: a lozenge, full where it stays, hollow where it is gone, with a cross, a frame or half of it. */
  let { change, size }: { change: Contact["change"]; size: number } = $props();
  const INK = "#4d1f5c";
  const hollow = $derived(change === "lost" || change === "cut");
</script>

<svg width={size} height={size} viewBox="-12 -12 24 24" aria-hidden="true">
  <path d="M0 -11 11 0 0 11 -11 0Z" fill="#fff" opacity="0.85" />
  {#if change === "heavier"}<path
      d="M0 -11 11 0 0 11 -11 0Z"
      fill="none"
      stroke={INK}
      stroke-width="2"
    />{/if}
  <path
    d={change === "heavier" ? "M0 -7 7 0 0 7 -7 0Z" : "M0 -9 9 0 0 9 -9 0Z"}
    fill={hollow || change === "lighter" ? "none" : INK}
    stroke={INK}
    stroke-width="2.5"
    stroke-dasharray={change === "lost" ? "4 3" : undefined}
  />
  {#if change === "lighter"}<path d="M-9 0 0 9 9 0Z" fill={INK} />{/if}
  {#if change === "new"}<path d="M0 -5V5M-5 0H5" stroke="#fff" stroke-width="2.5" />{/if}
</svg>
