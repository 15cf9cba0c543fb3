export { default as Examine } from "./Examine.svelte";
