export { default as Help } from "./Help.svelte";
