export { default as Visit } from "./Visit.svelte";
