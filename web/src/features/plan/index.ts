export { default as Plan } from "./Plan.svelte";
