import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";
import { compression } from "vite-plugin-compression2";

export default defineConfig({
  plugins: [react(), tailwindcss(), compression({ include: /\.(js|css|svg)$/, algorithm: "gzip" })],
  build: { target: "es2022", assetsInlineLimit: 0 },
});
