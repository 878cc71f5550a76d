import { defineConfig } from "vitest/config";
import { fileURLToPath } from "node:url";

const at = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  resolve: { alias: { "#core": at("./core"), "#server": at("./server"), "~": at("./app") } },
  test: {
    // a machine of two cores would get one worker otherwise
    maxWorkers: 2,
    projects: [
      {
        extends: true,
        test: {
          name: "unit",
          setupFiles: ["core/testing/seed.ts"],
          sequence: { groupOrder: 0 },
          include: ["{core,cli,server,workers,demo,app,bench,lint}/**/*.test.{ts,tsx}"],
          testTimeout: 60_000,
        },
      },
      {
        extends: true,
        test: {
          name: "e2e",
          sequence: { groupOrder: 1 },
          include: ["e2e/**/*.test.ts"],
          testTimeout: 240_000,
          hookTimeout: 240_000,
          globalSetup: ["e2e/seed.setup.ts"],
        },
      },
    ],
  },
});
