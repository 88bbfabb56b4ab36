import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  base: "/static/",
  plugins: [react(), tailwindcss()],
  resolve: { alias: { "@": "/src" } },
  test: { include: ["tests/**/*.test.ts"], environment: "node" },
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
});
