export { default as Look } from "./Look.svelte";
export { default as School } from "./School.svelte";
export { default as SchoolClass } from "./SchoolClass.svelte";
export { default as Taught } from "./components/Taught.svelte";
