import js from "@eslint/js";
import svelte from "eslint-plugin-svelte";
import globals from "globals";
import ts from "typescript-eslint";

export default ts.config(
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  { languageOptions: { globals: globals.browser } },
  { files: ["**/*.svelte", "**/*.svelte.ts"], languageOptions: { parserOptions: { parser: ts.parser } } },
  // The type checker knows every name; the rule does not know TypeScript's own.
  { rules: { "no-undef": "off", "svelte/no-navigation-without-resolve": "off" } },
  { ignores: ["src/api/schema.d.ts"] },
);
