import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** Imports only go down: app → server → core. One rule per layer says what it may not reach. */
const layer = (files, forbidden, message) => ({
  files,
  ignores: ["**/*.test.ts", "**/*.test.tsx", "core/testing/**"],
  rules: {
    "no-restricted-imports": ["error", { patterns: [{ group: forbidden, message }] }],
  },
});

const OUTSIDE = ["node:*", "fs", "path", "react", "react-dom", "react-router", "express", "drizzle-orm*", "@libsql/*", "piscina", "pino"];

export default tseslint.config(
  { ignores: ["build/**", "dist/**", "node_modules/**", ".react-router/**", "core/rules/language/parser*.js", "data/**", "*.tmp.*"] },
  ...tseslint.configs.recommended,
  {
    plugins: { "react-hooks": reactHooks },
    rules: {
      ...reactHooks.configs.recommended.rules,
      "@typescript-eslint/no-unused-vars": [
        "error",
        { argsIgnorePattern: "^_", varsIgnorePattern: "^_", destructuredArrayIgnorePattern: "^_" },
      ],
      "@typescript-eslint/consistent-type-imports": "error",
      eqeqeq: "error",
      "no-console": "off",
    },
  },
  layer(
    ["core/**/*.ts"],
    [...OUTSIDE, "#server/*", "~/*", "**/server/**", "**/app/**", "**/workers/**", "**/cli/**", "**/demo/**"],
    "core computes: no input or output, no interface, nothing of the layers above",
  ),
  {
    files: ["core/**/*.ts"],
    ignores: ["**/*.test.ts", "core/testing/**"],
    rules: {
      "no-restricted-globals": [
        "error",
        "window",
        "document",
        "process",
        "fetch",
        "localStorage",
        "performance",
        "setTimeout",
        "setInterval",
      ],
      "no-restricted-properties": [
        "error",
        { object: "Math", property: "random", message: "random numbers come from a seeded generator" },
        { object: "Date", property: "now", message: "core has no clock" },
      ],
    },
  },
  layer(
    ["server/**/*.ts"],
    ["~/*", "**/app/**", "**/cli/**", "**/demo/**"],
    "the server does not know the interface, the command line or the demo",
  ),
  layer(["workers/**/*.ts"], ["~/*", "**/app/**", "**/cli/**", "**/demo/**"], "workers run core and the server's work only"),
  layer(
    ["cli/**/*.ts"],
    ["#server/*", "~/*", "**/server/**", "**/app/**", "**/workers/**"],
    "the command line reads files, calls core, writes files",
  ),
  {
    // the face of a part is its index: other parts import nothing deeper
    files: ["core/**/*.ts", "server/**/*.ts", "app/**/*.{ts,tsx}", "cli/**/*.ts", "workers/**/*.ts"],
    rules: {
      "@typescript-eslint/no-restricted-imports": [
        "error",
        { patterns: [{ group: ["#core/*/*"], message: "import a part of core through its index" }] },
      ],
    },
  },
  { files: ["core/**/*.test.ts", "cli/**/*.test.ts"], rules: { "@typescript-eslint/no-restricted-imports": "off" } },
  { files: ["scripts/**", "*.js", "*.mjs", "core/rules/language/*.js"], rules: { "@typescript-eslint/no-unused-vars": "off" } },
);
