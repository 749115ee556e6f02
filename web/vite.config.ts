import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

const server = `http://127.0.0.1:${process.env.YOAKE_PORT ?? "8710"}`;

export default defineConfig({
  plugins: [react(), tailwindcss()],
  // The content security policy lets fonts come from files only.
  build: { assetsInlineLimit: 0, outDir: "../src/yoake/web", emptyOutDir: true, chunkSizeWarningLimit: 700 },
  server: { port: 5173, proxy: { "/api": server } },
});
