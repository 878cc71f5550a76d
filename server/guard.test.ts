import express from "express";
import { createServer, request, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { guard } from "./guard";

let server: Server;
let port = 0;

beforeAll(async () => {
  const probe = createServer();
  await new Promise<void>((resolve) => probe.listen(0, "127.0.0.1", resolve));
  port = (probe.address() as AddressInfo).port;
  await new Promise((resolve) => probe.close(resolve));
  const app = express();
  app.use(guard(port));
  app.all("/", (_request, response) => void response.send("inside"));
  server = app.listen(port, "127.0.0.1");
  await new Promise((resolve) => server.once("listening", resolve));
});
afterAll(() => void server.close());

/** Asks from outside, with headers of our own choosing. */
function ask(headers: Record<string, string>, method = "GET"): Promise<{ status: number; body: string; headers: Record<string, unknown> }> {
  return new Promise((resolve, reject) => {
    const asked = request(
      { host: "127.0.0.1", port, method, path: "/", headers: { host: `127.0.0.1:${port}`, ...headers } },
      (response) => {
        let body = "";
        response.on("data", (part) => (body += part));
        response.on("end", () => resolve({ status: response.statusCode!, body, headers: response.headers }));
      },
    );
    asked.on("error", reject);
    asked.end();
  });
}

describe("the guard", () => {
  it("answers under its own names only", async () => {
    for (const host of [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`]) expect((await ask({ host })).body).toBe("inside");
    for (const host of ["evil.example", `evil.example:${port}`, "127.0.0.1", `127.0.0.1:${port + 1}`]) {
      const { status, body } = await ask({ host });
      expect([400, 421]).toContain(status);
      expect(body).not.toBe("inside");
    }
  });

  it("lets only our own pages change something", async () => {
    const own = `http://127.0.0.1:${port}`;
    expect((await ask({ origin: own, "sec-fetch-site": "same-origin" }, "POST")).body).toBe("inside");
    expect((await ask({ origin: own }, "DELETE")).body).toBe("inside");
    for (const headers of [
      { origin: "https://evil.example" },
      { origin: `https://127.0.0.1:${port}` },
      { origin: `http://127.0.0.1:${port + 1}` },
      { origin: "null" },
      { origin: own, "sec-fetch-site": "cross-site" },
      { "sec-fetch-site": "cross-site", "content-type": "application/x-www-form-urlencoded" },
      {},
    ])
      for (const method of ["POST", "PUT", "PATCH", "DELETE"])
        expect((await ask(headers as unknown as Record<string, string>, method)).status, JSON.stringify(headers)).toBe(403);
  });

  it("sets the security headers on every answer, with a new nonce each time", async () => {
    const [one, two] = [await ask({}), await ask({ host: "evil.example" })];
    for (const { headers } of [one, two]) {
      const policy = String(headers["content-security-policy"]);
      expect(policy).toMatch(/script-src 'self' 'nonce-[A-Za-z0-9+/=]{20,}'/);
      expect(policy).not.toMatch(/unsafe-eval|script-src[^;]*unsafe-inline/);
      expect(policy).toContain("frame-ancestors 'none'");
      expect(headers["x-content-type-options"]).toBe("nosniff");
      expect(headers["cross-origin-opener-policy"]).toBe("same-origin");
      expect(headers["cross-origin-embedder-policy"]).toBe("require-corp");
    }
    expect(one.headers["content-security-policy"]).not.toBe(two.headers["content-security-policy"]);
  });
});
