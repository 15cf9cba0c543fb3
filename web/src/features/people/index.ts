export { default as People } from "./People.svelte";
