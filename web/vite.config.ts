import tailwindcss from "@tailwindcss/vite";
import { svelte } from "@sveltejs/vite-plugin-svelte";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [tailwindcss(), svelte()],
  build: {
    target: "es2022",
    rolldownOptions: {
      output: {
        // What draws in three dimensions comes with the pages that show a tooth, in two files that load side by side.
        codeSplitting: {
          groups: [
            { name: "three-core", test: /three\.core/ },
            { name: "three", test: /node_modules\/three/ },
          ],
        },
      },
    },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8470" } },
  test: { include: ["src/**/*.test.ts"], setupFiles: ["src/test/browser.ts"] },
});
