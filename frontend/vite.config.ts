import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  base: "/static/",
  plugins: [react(), tailwindcss()],
  resolve: { alias: { "@": "/src" } },
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 1200 },
});
