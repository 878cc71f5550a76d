import type { Express, Request, Response } from "express";
import { Readable } from "node:stream";
import { createGzip } from "node:zlib";
import { barsCsvLines } from "#core/bars";
import { readMarket } from "#core/documents";
import { loadParts } from "./bar-store";
import { isRefused } from "./problem";
import { RUN_PARTS } from "./run-parts";
import { barsFileName } from "./market-source";
import type { Services } from "./services";

/** Answers a refusal with its sentence; anything else goes on to the error handler. */
const refusing = (work: (request: Request, response: Response) => Promise<void>) => async (request: Request, response: Response) => {
  try {
    await work(request, response);
  } catch (error) {
    if (!isRefused(error)) throw error;
    if (!response.headersSent) response.status(error.status).json({ problems: error.problems });
  }
};

/** Bars as packed parts, each behind its length: four bytes, then the part. */
function framed(parts: readonly Buffer[]): Buffer {
  return Buffer.concat(
    parts.flatMap((part) => {
      const head = Buffer.alloc(4);
      head.writeUInt32LE(part.length);
      return [head, part];
    }),
  );
}

/** The addresses that speak in bytes: bars, files that are handed in, exports. */
export function barRoutes(app: Express, services: Services): void {
  app.get(
    "/bars/:hash",
    refusing(async (request, response) => {
      const hash = String(request.params.hash);
      const parts = /^[0-9a-f]{64}$/.test(hash) ? await loadParts(services.db, hash) : null;
      if (parts === null) return void response.status(404).type("text/plain").send("There are no bars with this hash.");
      response.setHeader("Cache-Control", "private, max-age=31536000, immutable");
      response.type("application/octet-stream").send(framed(parts));
    }),
  );

  /** Which bars these are in another timeframe: the hash to ask for. */
  app.get(
    "/bars/:hash/to/:timeframe",
    refusing(async (request, response) => {
      const { hash, timeframe } = request.params as Record<string, string>;
      let session: unknown = null;
      try {
        session = JSON.parse(String(request.query.session ?? "null"));
      } catch {
        return void response.status(400).json({ problems: [{ path: "session", message: "the session is no JSON" }] });
      }
      const read = readMarket({ format: "canyon.market/1", symbol: "X", session });
      if (read.value === null) return void response.status(400).json({ problems: read.problems });
      response.json(await services.derived.get(hash, String(request.query.from), timeframe, read.value.session));
    }),
  );

  app.get(
    "/sources/:id/export",
    refusing(async (request, response) => {
      const { market, source } = await sourceOf(services, Number(request.params.id));
      const timeframe = String(request.query.timeframe ?? source.timeframe);
      const { hash } = await services.derived.get(source.barsHash, source.timeframe, timeframe, market.spec.session);
      const [bars] = await services.bars.all([hash]);
      const packed = request.query.packed === "gz";
      const name = barsFileName(market.symbol, source.name, timeframe);
      response.setHeader("Content-Disposition", `attachment; filename="${name}${packed ? ".gz" : ""}"`);
      response.type(packed ? "application/gzip" : "text/csv");
      const lines = Readable.from(barsCsvLines(bars));
      const out = packed ? lines.pipe(createGzip()) : lines;
      out.pipe(response);
      response.on("close", () => lines.destroy());
    }),
  );

  /** A stored run's long columns as they lie in the database. The fingerprint in the address makes them good for ever. */
  app.get("/runs/:id/part/:part/:fingerprint", async (request, response) => {
    const part = RUN_PARTS.find((one) => one === request.params.part);
    const data = part === undefined ? null : await services.runs.parts.raw(Number(request.params.id), part);
    if (data === null) return void response.status(404).type("text/plain").send("This run has no such part.");
    response.setHeader("Cache-Control", "private, max-age=31536000, immutable");
    response.setHeader("Content-Encoding", "gzip");
    response.type("application/octet-stream").send(data);
  });

  /** Extra series of a market by name, as run settings hold them. */
  app.get(
    "/markets/:symbol/series.json",
    refusing(async (request, response) => {
      const series = await services.series.ofMarket(String(request.params.symbol));
      response.json(Object.fromEntries(series.map((one) => [one.name, one.points])));
    }),
  );

  app.post(
    "/uploads",
    refusing(async (request, response) => {
      const announced = request.headers["content-length"] === undefined ? null : Number(request.headers["content-length"]);
      const name = String(request.query.name ?? "file.csv");
      try {
        const taken = await services.imports.uploads.receive(name, request, announced);
        response.json({ uploads: taken.map(({ id, name: own, bytes }) => ({ id, name: own, bytes })) });
      } catch (error) {
        // what is still on its way is not waited for
        response.setHeader("Connection", "close");
        throw error;
      }
    }),
  );
}

async function sourceOf(services: Services, id: number) {
  const row = await services.sources.row(id);
  const market = (await services.markets.list()).find((one) => one.id === row.marketId);
  if (market === undefined) throw new Error(`the market of source ${id} is gone`);
  return { market, source: market.sources.find((source) => source.id === id)! };
}
