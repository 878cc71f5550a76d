import { createRequestHandler } from "@react-router/express";
import express, { type Express } from "express";
import type { ServerBuild } from "react-router";
import { encodeBars } from "#core/bars";
import { guard } from "./guard";
import type { Services } from "./services";

/** The web application: guard, bars, files of the build, pages. */
export function createApp(
  services: Services,
  build: ServerBuild | (() => Promise<ServerBuild>),
  port: number,
  clientFolder: string | null,
): Express {
  const app = express();
  app.disable("x-powered-by");
  app.use(guard(port));
  app.get("/bars/:hash", async (request, response) => {
    const bars = /^[0-9a-f]{64}$/.test(request.params.hash) ? await services.bars.get(request.params.hash) : null;
    if (bars === null) {
      response.status(404).type("text/plain").send("There are no bars with this hash.");
      return;
    }
    response.setHeader("Cache-Control", "private, max-age=31536000, immutable");
    response.type("application/octet-stream").send(Buffer.from(encodeBars(bars).buffer));
  });
  if (clientFolder !== null) {
    app.use("/assets", express.static(`${clientFolder}/assets`, { immutable: true, maxAge: "1y" }));
    app.use(express.static(clientFolder, { maxAge: "1h" }));
  }
  app.use(
    createRequestHandler({
      build,
      getLoadContext: (_request, response) => ({ services, nonce: response.locals.nonce as string }),
    }),
  );
  return app;
}
