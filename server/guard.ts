import type { NextFunction, Request, Response } from "express";
import { randomBytes } from "node:crypto";

/** Names under which the server may be asked, with its port. */
export const allowedHosts = (port: number): string[] => ["127.0.0.1", "localhost", "[::1]"].map((host) => `${host}:${port}`);

/**
 * The one place that decides who may ask. A page somewhere on the web can make a browser send requests here, so: the Host
 * must be the address listened on, a request that changes something must come from one of our own pages, and every answer
 * carries the security headers.
 */
export function guard(port: number) {
  const hosts = new Set(allowedHosts(port));
  return (request: Request, response: Response, next: NextFunction): void => {
    const nonce = randomBytes(16).toString("base64");
    response.locals.nonce = nonce;
    response.setHeader(
      "Content-Security-Policy",
      [
        "default-src 'self'",
        `script-src 'self' 'nonce-${nonce}'`,
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "worker-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
      ].join("; "),
    );
    response.setHeader("X-Content-Type-Options", "nosniff");
    response.setHeader("Cross-Origin-Opener-Policy", "same-origin");
    response.setHeader("Cross-Origin-Embedder-Policy", "require-corp");
    response.setHeader("Cross-Origin-Resource-Policy", "same-origin");
    response.setHeader("Referrer-Policy", "same-origin");
    if (!hosts.has(request.headers.host ?? "")) return deny(response, 421, `Canyon answers on ${allowedHosts(port)[0]} only.`);
    if (request.method !== "GET" && request.method !== "HEAD") {
      const { origin } = request.headers;
      const site = request.headers["sec-fetch-site"];
      const ours =
        origin !== undefined ? hosts.has(origin.replace(/^http:\/\//, "")) && origin.startsWith("http://") : site === "same-origin";
      if (!ours || (site !== undefined && site !== "same-origin" && site !== "none"))
        return deny(response, 403, "This request came from another site and was refused.");
    }
    next();
  };
}

function deny(response: Response, status: number, text: string): void {
  response.status(status).type("text/plain").send(text);
}
