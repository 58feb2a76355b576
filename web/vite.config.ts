import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

// In development the API runs beside on its own port.
export default defineConfig({
  plugins: [react()],
  build: { target: "es2022", chunkSizeWarningLimit: 900, modulePreload: { polyfill: false } },
  server: { proxy: { "/api": "http://127.0.0.1:8700" } },
});
