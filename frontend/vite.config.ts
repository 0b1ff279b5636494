import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";
import { compression } from "vite-plugin-compression2";

export default defineConfig({
  plugins: [react(), tailwindcss(), compression({ include: /\.(js|css|svg)$/, algorithm: "gzip" })],
  test: { environment: "jsdom", include: ["src/**/*.test.{ts,tsx}"], restoreMocks: true },
  build: { target: "es2022", assetsInlineLimit: 0 },
});
