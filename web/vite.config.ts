import tailwind from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig(({ command }) => ({
  // Built files are served by Django below /static/.
  base: command === "build" ? "/static/" : "/",
  plugins: [react(), tailwind()],
  build: { chunkSizeWarningLimit: 700 },
  server: {
    port: 5173,
    proxy: Object.fromEntries(
      ["/api", "/read"].map((path) => [path, { target: "http://127.0.0.1:8000", changeOrigin: false }]),
    ),
  },
}));
