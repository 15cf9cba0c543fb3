export { default as Intake } from "./Intake.svelte";
export { default as NewCase } from "./NewCase.svelte";
