export { default as People } from "./People.svelte";
export { default as SignIn } from "./SignIn.svelte";
