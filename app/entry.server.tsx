import { createReadableStreamFromReadable } from "@react-router/node";
import { isbot } from "isbot";
import { PassThrough } from "node:stream";
import { renderToPipeableStream, type RenderToPipeableStreamOptions } from "react-dom/server";
import type { AppLoadContext, EntryContext } from "react-router";
import { ServerRouter } from "react-router";

export const streamTimeout = 5_000;

/** Renders a page with the request's nonce on every inline script. */
export default function handleRequest(request: Request, status: number, headers: Headers, entry: EntryContext, context: AppLoadContext) {
  return new Promise<Response>((resolve, reject) => {
    let shellSent = false;
    const ready: keyof RenderToPipeableStreamOptions = isbot(request.headers.get("user-agent") ?? "") ? "onAllReady" : "onShellReady";
    const { pipe, abort } = renderToPipeableStream(<ServerRouter context={entry} url={request.url} nonce={context.nonce} />, {
      nonce: context.nonce,
      [ready]() {
        shellSent = true;
        const body = new PassThrough();
        headers.set("Content-Type", "text/html");
        resolve(new Response(createReadableStreamFromReadable(body), { headers, status }));
        pipe(body);
      },
      onShellError: reject,
      onError(error: unknown) {
        status = 500;
        if (shellSent) console.error(error);
      },
    });
    setTimeout(abort, streamTimeout + 1000);
  });
}
