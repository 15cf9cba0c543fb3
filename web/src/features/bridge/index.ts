export { default as Bridge } from "./Bridge.svelte";
