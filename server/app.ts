import { createRequestHandler } from "@react-router/express";
import express, { type Express } from "express";
import type { ServerBuild } from "react-router";
import { barRoutes } from "./bar-routes";
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
  barRoutes(app, services);
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
