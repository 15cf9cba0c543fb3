export { default as Cases } from "./Cases.svelte";
