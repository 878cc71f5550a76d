import { reactRouter } from "@react-router/dev/vite";
import tailwindcss from "@tailwindcss/vite";
import { fileURLToPath } from "node:url";
import { defineConfig } from "vite";

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  plugins: [tailwindcss(), reactRouter()],
  resolve: { alias: { "#core": at("./core"), "#server": at("./server"), "~": at("./app") } },
  worker: { format: "es" },
  // nothing is inlined as data: the security headers allow files of our own only
  build: { assetsInlineLimit: 0 },
});
