export { default as Library } from "./Library.svelte";
