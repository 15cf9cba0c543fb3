export { default as Career } from "./Career.svelte";
