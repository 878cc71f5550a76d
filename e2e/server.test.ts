import { spawn } from "node:child_process";
import { createServer } from "node:net";
import { join } from "node:path";
import { describe, expect, it } from "vitest";
import { freePort, root, startServer } from "./harness";

describe("the server", () => {
  it("stops cleanly on Ctrl-C and starts again on the same data", async () => {
    const first = await startServer();
    expect(first.output()).toContain(`http://127.0.0.1:${first.port}`);
    const before = await (await fetch(`${first.base}/library`)).text();
    expect(before).toContain("Ferry channel");
    expect(await first.stop("SIGINT")).toBe(0);
    const second = await startServer({ data: first.data });
    expect(await (await fetch(`${second.base}/library`)).text()).toContain("Ferry channel");
    await second.stop();
  });

  it("says so when the port is taken", async () => {
    const port = await freePort();
    const other = createServer();
    await new Promise<void>((resolve) => other.listen(port, "127.0.0.1", resolve));
    const child = spawn("node", [join(root, "scripts/demo.mjs")], {
      env: { ...process.env, PORT: String(port) },
      stdio: ["ignore", "pipe", "pipe"],
    });
    let output = "";
    child.stderr.on("data", (part) => (output += part));
    const code = await new Promise((resolve) => child.once("exit", resolve));
    other.close();
    expect(code).toBe(1);
    expect(output).toContain(`Port ${port} is taken by another program. Choose another one: PORT=${port + 1} npm run demo`);
  });

  it("is guarded: other hosts, other origins, forms of other sites", async () => {
    const server = await startServer();
    const post = (headers: Record<string, string>) =>
      fetch(`${server.base}/library`, { method: "POST", body: new URLSearchParams({ intent: "remove", id: "1", name: "x" }), headers });
    expect((await post({ origin: "https://evil.example" })).status).toBe(403);
    expect((await post({ origin: "null" })).status).toBe(403);
    expect((await post({})).status).toBe(403);
    expect(await (await fetch(`${server.base}/library`)).text()).toContain("Ferry channel");
    const page = await fetch(`${server.base}/library`);
    expect(page.headers.get("content-security-policy")).toContain("frame-ancestors 'none'");
    const nonce = /'nonce-([^']+)'/.exec(page.headers.get("content-security-policy")!)![1];
    const html = await page.text();
    const scripts = [...html.matchAll(/<script(?![^>]*src=)([^>]*)>/g)].map((match) => match[1]);
    expect(scripts.length).toBeGreaterThan(0);
    for (const attributes of scripts) expect(attributes).toContain(`nonce="${nonce}"`);
    await server.stop();
  });

  it("gives bars as binary that may be kept forever", async () => {
    const server = await startServer();
    const html = await (await fetch(`${server.base}/markets/FERRY`)).text();
    const hash = /[0-9a-f]{64}/.exec(html)![0];
    const response = await fetch(`${server.base}/bars/${hash}`);
    expect(response.headers.get("cache-control")).toContain("immutable");
    expect((await response.arrayBuffer()).byteLength).toBeGreaterThan(10_000);
    expect((await fetch(`${server.base}/bars/${"0".repeat(64)}`)).status).toBe(404);
    await server.stop();
  });
});
