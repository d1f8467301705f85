import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defaultClientConditions, defineConfig } from "vite";

const API = `http://127.0.0.1:${process.env.PORT ?? 4480}`;

export default defineConfig({
  plugins: [react(), tailwindcss()],
  worker: { format: "es" },
  build: { assetsInlineLimit: 0, target: "es2022", chunkSizeWarningLimit: 1200 },
  resolve: { conditions: ["source", ...defaultClientConditions] },
  server: {
    headers: { "Cross-Origin-Opener-Policy": "same-origin", "Cross-Origin-Embedder-Policy": "require-corp" },
    // The API wants requests from its own host: the proxy speaks for the page.
    proxy: { "/api": { target: API, changeOrigin: true, headers: { origin: API } } },
  },
});
