import fc from "fast-check";
import { readdirSync } from "node:fs";
import { join } from "node:path";
import { Readable } from "node:stream";
import { deflateRawSync, gzipSync } from "node:zlib";
import { describe, expect, it } from "vitest";
import { hashBars, readBarsCsv } from "#core/bars";
import type { Refused } from "../problem";
import type { Services } from "../services";
import { addMarket, csvText, emptyFolder, ended, newMarket, openTest } from "../testing/services";
import type { ImportTarget, ImportView } from "./imports";

/** A .zip of files, deflated, made by hand: local headers, central directory, end record. */
function zipOf(files: Record<string, Buffer>): Buffer {
  const parts: Buffer[] = [];
  const central: Buffer[] = [];
  let at = 0;
  const crcTable = Array.from({ length: 256 }, (_, n) => {
    let c = n;
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1;
    return c >>> 0;
  });
  for (const [name, content] of Object.entries(files)) {
    let crc = 0xffffffff;
    for (const byte of content) crc = crcTable[(crc ^ byte) & 255] ^ (crc >>> 8);
    crc = (crc ^ 0xffffffff) >>> 0;
    const packed = deflateRawSync(content);
    const head = Buffer.alloc(30);
    head.writeUInt32LE(0x04034b50, 0);
    head.writeUInt16LE(20, 4);
    head.writeUInt16LE(8, 8);
    head.writeUInt32LE(crc, 14);
    head.writeUInt32LE(packed.length, 18);
    head.writeUInt32LE(content.length, 22);
    head.writeUInt16LE(name.length, 26);
    const entry = Buffer.alloc(46);
    entry.writeUInt32LE(0x02014b50, 0);
    entry.writeUInt16LE(20, 4);
    entry.writeUInt16LE(20, 6);
    entry.writeUInt16LE(8, 10);
    entry.writeUInt32LE(crc, 16);
    entry.writeUInt32LE(packed.length, 20);
    entry.writeUInt32LE(content.length, 24);
    entry.writeUInt16LE(name.length, 28);
    entry.writeUInt32LE(at, 42);
    parts.push(head, Buffer.from(name), packed);
    central.push(entry, Buffer.from(name));
    at += 30 + name.length + packed.length;
  }
  const directory = Buffer.concat(central);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(Object.keys(files).length, 8);
  end.writeUInt16LE(Object.keys(files).length, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(at, 16);
  return Buffer.concat([...parts, directory, end]);
}

const receive = (services: Services, name: string, bytes: Buffer | string, announced: number | null = null) =>
  services.imports.uploads.receive(name, Readable.from([Buffer.from(bytes)]), announced);

async function importInto(services: Services, bytes: Buffer | string, part: Partial<ImportTarget>, name = "bars.csv"): Promise<ImportView> {
  const [upload] = await receive(services, name, bytes);
  const preview = await services.imports.preview(upload.id);
  const id = await services.imports.start(upload.id, {
    market: null,
    create: null,
    source: "a file",
    format: preview.format,
    leaveOut: false,
    takeChanges: false,
    ...part,
  });
  const view = (await services.imports.get(id))!;
  await ended(services, view.job.id);
  return (await services.imports.get(id))!;
}

async function running(): Promise<{ services: Services; folder: string }> {
  const folder = emptyFolder();
  const services = await openTest(folder);
  await services.jobs.start();
  return { services, folder };
}

const refusalOf = (promise: Promise<unknown>): Promise<Refused> =>
  promise.then(
    () => {
      throw new Error("it was not refused");
    },
    (error: Refused) => error,
  );

describe("importing", () => {
  it("makes a market of a file, plain, packed or in an archive, to the last bit", async () => {
    const { services, folder } = await running();
    const text = csvText(300);
    const wanted = hashBars(readBarsCsv(text).bars);
    for (const [symbol, name, bytes] of [
      ["PLAIN", "plain.csv", Buffer.from(text)],
      ["GZIP", "gzip.csv.gz", gzipSync(text)],
      ["ZIP", "archive.zip", zipOf({ "readme.md": Buffer.from("no bars"), "zip.csv": Buffer.from(text) })],
      ["WIDE", "wide.csv", Buffer.from(`\ufeff${text}`, "utf16le")],
    ] as const) {
      const view = await importInto(services, bytes, { create: newMarket(symbol) }, name);
      expect(view.report!.fatal, symbol).toBe(null);
      expect(view.state, symbol).toBe("taken");
      expect((await services.markets.need(symbol)).barsHash, symbol).toBe(wanted);
    }
    expect(readdirSync(join(folder, "uploads"))).toEqual([]);
    await services.close();
  });

  it("keeps what lies behind a seal from everybody, before and after it is taken", async () => {
    const { services } = await running();
    await importInto(services, csvText(400), { create: newMarket("ELVER") });
    await services.seals.seal(await services.markets.need("ELVER"), "2016-01-01");
    const view = await importInto(services, csvText(600), { market: "ELVER" });
    expect(view.report).toMatchObject({ added: 200, changed: 0 });
    const refused = async () => expect((await refusalOf(services.bars.get(view.report!.all!))).message).toContain("behind a seal");
    await refused();
    if (view.state === "ready") await services.imports.take(view.id, "all");
    const market = await services.markets.need("ELVER");
    expect([market.lastTime, market.count]).toEqual([Date.parse("2015-12-31"), 365]);
    await refused();
    await services.close();
  });

  it("is all or nothing: broken lines are shown, and nothing counts before they are left out on purpose", async () => {
    const { services } = await running();
    const broken = `${csvText(50)}\n2015-03-01,1,2,3,x,1\n2015-03-02,5,6,4,5.5,1`;
    const view = await importInto(services, broken, { create: newMarket("ELVER") });
    expect(view.state).toBe("ready");
    expect(view.report).toMatchObject({ rejected: 1, count: 51, problems: [{ line: 52, message: "close “x” is not a number" }] });
    expect(await services.markets.bySymbol("ELVER")).toBe(null);
    expect(await services.imports.take(view.id, "all")).toBe("ELVER");
    expect((await services.markets.need("ELVER")).count).toBe(51);
    const dropped = await importInto(services, broken, { create: newMarket("OTHER") });
    await services.imports.drop(dropped.id);
    expect((await refusalOf(services.imports.take(dropped.id, "all"))).message).toContain("dropped");
    expect(await services.markets.bySymbol("OTHER")).toBe(null);
    expect((await importInto(services, broken, { create: newMarket("OTHER"), leaveOut: true })).state).toBe("taken");
    await services.close();
  });

  it("merges by time: new bars are added at once, changed ones shown and taken only on confirmation", async () => {
    const { services } = await running();
    await importInto(services, csvText(100), { create: newMarket("ELVER") });
    const more = await importInto(services, csvText(130), { market: "ELVER" });
    expect([more.state, more.report!.added, more.report!.changed, more.report!.same]).toEqual(["taken", 30, 0, 100]);
    const revised = csvText(140).replace(/^(2015-01-10,[^,]*,)([^,]*)/m, (_, head: string, high: string) => `${head}${Number(high) + 5}`);
    const waits = await importInto(services, revised, { market: "ELVER" });
    expect([waits.state, waits.report!.added, waits.report!.changed]).toEqual(["ready", 10, 1]);
    const [change] = waits.report!.changes;
    expect(new Date(change.time).toISOString().slice(0, 10)).toBe("2015-01-10");
    expect(change.after.high).toBeCloseTo(change.before.high + 5, 9);
    expect((await services.markets.need("ELVER")).count).toBe(130);
    await services.imports.take(waits.id, "newOnly");
    const kept = await services.markets.need("ELVER");
    expect(kept.count).toBe(140);
    const [bars] = await services.bars.all([kept.barsHash]);
    expect(bars.high[9]).toBe(change.before.high);
    const again = await importInto(services, revised, { market: "ELVER" });
    await services.imports.take(again.id, "all");
    const [taken] = await services.bars.all([(await services.markets.need("ELVER")).barsHash]);
    expect(taken.high[9]).toBe(change.after.high);
    const [source] = (await services.markets.need("ELVER")).sources;
    expect((await services.sources.changes(source.id)).map((one) => one.what)).toEqual(["import", "import", "import", "created"]);
    await services.sources.revert((await services.sources.changes(source.id))[0].id);
    const [back] = await services.bars.all([(await services.markets.need("ELVER")).barsHash]);
    expect(back.high[9]).toBe(change.before.high);
    await services.close();
  });

  it("does not take what was read before the source changed", async () => {
    const { services } = await running();
    await importInto(services, csvText(100), { create: newMarket("ELVER") });
    const revised = csvText(110).replace(/^(2015-01-10,[^,]*,)([^,]*)/m, (_, head: string, high: string) => `${head}${Number(high) + 5}`);
    const waits = await importInto(services, revised, { market: "ELVER" });
    expect(waits.state).toBe("ready");
    await importInto(services, csvText(120), { market: "ELVER" });
    expect((await refusalOf(services.imports.take(waits.id, "all"))).message).toContain("has changed since");
    expect((await services.markets.need("ELVER")).count).toBe(120);
    await services.close();
  });

  it("remembers the format of a source, and matches files to markets by name", async () => {
    const { services } = await running();
    const text = "Date;Open;High;Low;Close\n01.02.2024;1,5;2;1;1,75\n02.02.2024;1,75;2;1;1,5\n";
    const [first] = await receive(services, "ELVER_daily.csv", text);
    const guess = await services.imports.preview(first.id);
    expect(guess.doubts).toHaveLength(1);
    expect(guess.guess).toBe(null);
    const format = { ...guess.format, time: "dayFirst" as const, zone: "Europe/Copenhagen" };
    const id = await services.imports.start(first.id, {
      market: null,
      create: newMarket("ELVER"),
      source: "a file",
      format,
      leaveOut: false,
      takeChanges: false,
    });
    await ended(services, (await services.imports.get(id))!.job.id);
    const [second] = await receive(services, "ELVER_daily.csv", text);
    const known = await services.imports.preview(second.id);
    expect(known).toMatchObject({ guess: "ELVER", remembered: true, format, doubts: [] });
    await services.close();
  });

  it("refuses what makes no sense, with the reason, before anything is read", async () => {
    const { services } = await running();
    await expect(receive(services, "empty.csv", "")).rejects.toThrow("empty.csv is empty");
    await expect(receive(services, "big.csv", "x", 2 ** 50)).rejects.toThrow(/larger than/);
    await expect(receive(services, "none.zip", zipOf({ "a.md": Buffer.from("x") }))).rejects.toThrow(/holds no file/);
    const [upload] = await receive(services, "x.csv", csvText(10));
    const { format } = await services.imports.preview(upload.id);
    const target = {
      market: null,
      create: newMarket("X"),
      source: "",
      format: { ...format, timeframe: "7d", zone: "Mars/Olympus" },
      leaveOut: false,
      takeChanges: false,
    };
    const { problems } = await refusalOf(services.imports.start(upload.id, target));
    expect(problems.map((problem) => problem.path).sort()).toEqual(["source", "timeframe", "zone"]);
    expect((await refusalOf(services.imports.start(upload.id, { ...target, create: null, market: "GONE", format }))).message).toContain(
      "no market GONE",
    );
    const view = await importInto(services, "time,open\n1,2\n", { create: newMarket("X"), format: { ...format } });
    expect(view.report!.fatal ?? "", "columns that are not there are empty").not.toBe(undefined);
    expect(await services.markets.bySymbol("X")).toBe(null);
    await services.close();
  });

  it("stops at what unpacks beyond the limit, and at broken archives", async () => {
    const { services } = await running();
    process.env.CANYON_UNPACKED_LIMIT = "200000";
    try {
      const bomb = gzipSync(Buffer.alloc(3_000_000, "2015-01-01,1,1,1,1,1\n"));
      const view = await importInto(
        services,
        bomb,
        { create: newMarket("BOMB"), format: { ...(await anyFormat(services)) } },
        "bomb.csv.gz",
      );
      expect(view.report!.fatal).toContain("unpacks to more than");
      const zipped = await importInto(
        services,
        zipOf({ "bomb.csv": Buffer.alloc(3_000_000, "1,1\n") }),
        { create: newMarket("BOMB"), format: await anyFormat(services) },
        "bomb.zip",
      );
      expect(zipped.report!.fatal).toContain("unpacks to more than");
    } finally {
      delete process.env.CANYON_UNPACKED_LIMIT;
    }
    const torn = gzipSync(csvText(500)).subarray(0, 900);
    const view = await importInto(services, torn, { create: newMarket("TORN"), format: await anyFormat(services) }, "torn.csv.gz");
    expect(view.report!.fatal).toContain("broken");
    expect(await services.markets.list()).toEqual([]);
    await services.close();
  });

  it("never crashes and never half-imports, whatever the bytes", async () => {
    const { services } = await running();
    const format = await anyFormat(services);
    const piece = fc.oneof(
      fc.uint8Array({ maxLength: 300 }).map((bytes) => Buffer.from(bytes)),
      fc
        .constantFrom("\r\n", "\n", '"', ",,,,", "\0\0", "2015-01-01,1,2,0,1,5\n", "date,open,high,low,close\n", "7".repeat(2000))
        .map((text) => Buffer.from(text)),
    );
    let k = 0;
    await fc.assert(
      fc.asyncProperty(
        fc.array(piece, { minLength: 1, maxLength: 12 }),
        fc.constantFrom("x.csv", "x.csv.gz", "x.zip"),
        async (pieces, name) => {
          const plain = Buffer.concat(pieces);
          if (plain.length === 0) return;
          const bytes =
            name === "x.csv"
              ? plain
              : name === "x.csv.gz"
                ? Buffer.concat([Buffer.from([0x1f, 0x8b]), plain])
                : Buffer.concat([Buffer.from("PK\x03\x04"), plain]);
          const symbol = `FUZZ${k++}`;
          let view: ImportView;
          try {
            view = await importInto(services, bytes, { create: newMarket(symbol), format, leaveOut: true }, name);
          } catch (error) {
            expect((error as Error).name).toBe("Refused");
            return;
          }
          const market = await services.markets.bySymbol(symbol);
          expect(view.job.state).toBe("done");
          expect(market === null).toBe(view.state !== "taken");
          if (market !== null) expect((await services.bars.all([market.barsHash]))[0].length).toBe(view.report!.count);
        },
      ),
      { numRuns: 60 },
    );
    await services.close();
  });

  it("a cancelled import leaves nothing behind", async () => {
    const folder = emptyFolder();
    const services = await openTest(folder);
    const [upload] = await receive(services, "x.csv", csvText(100));
    const { format } = await services.imports.preview(upload.id);
    const id = await services.imports.start(upload.id, {
      market: null,
      create: newMarket("X"),
      source: "a file",
      format,
      leaveOut: false,
      takeChanges: false,
    });
    await services.imports.drop(id);
    await services.jobs.start();
    expect((await services.imports.get(id))!).toMatchObject({ state: "dropped", job: { state: "cancelled" } });
    expect(await services.markets.list()).toEqual([]);
    expect(readdirSync(join(folder, "uploads"))).toEqual([]);
    await services.close();
  });
});

async function anyFormat(services: Services) {
  const [upload] = await receive(services, "any.csv", csvText(10));
  const { format } = await services.imports.preview(upload.id);
  await services.imports.uploads.drop(upload.id);
  return format;
}

describe("corrections", () => {
  it("leave bars out by a recorded decision, survive an import, and can be taken back", async () => {
    const { services } = await running();
    const lines = csvText(200).split("\n");
    lines[101] = lines[101].replace(/^([^,]*),.*/, "$1,100,900,99,880,1");
    await addMarket(services, newMarket("ELVER"), lines.join("\n"));
    const read = async () => {
      const market = await services.markets.need("ELVER");
      return { source: market.sources[0], report: await services.quality.report(market.sources[0], market.spec) };
    };
    const { source, report } = await read();
    const spike = report.findings.find((finding) => finding.kind === "spike")!;
    expect(spike.times).toHaveLength(1);
    const decision = await services.sources.decide(source.id, spike, "leaveOut", "a wrong print");
    const after = await read();
    expect([after.source.count, after.source.rawHash]).toEqual([199, source.rawHash]);
    expect(after.report.settled).toMatchObject([{ reason: "a wrong print", action: "leaveOut" }]);
    expect((await refusalOf(services.sources.decide(source.id, spike, "accept", ""))).message).toContain("already");
    const text = [...lines, ...csvText(210).split("\n").slice(201)].join("\n");
    const view = await importInto(services, text, { market: "ELVER" });
    expect(view.state).toBe("taken");
    expect((await read()).source.count).toBe(209);
    await services.sources.undo(decision);
    const back = await read();
    expect([back.source.count, back.source.barsHash]).toEqual([210, back.source.rawHash]);
    const accepted = back.report.findings.find((finding) => finding.kind === "spike")!;
    await services.sources.decide(source.id, accepted, "accept", "it was real");
    expect((await read()).report.findings.find((finding) => finding.key === accepted.key)!.decision).toMatchObject({ action: "accept" });
    await services.close();
  });
});

describe("lists and extra series", () => {
  it("combine lists, these minus those, and never in a circle", async () => {
    const { services } = await running();
    for (const symbol of ["A", "B", "C"]) await addMarket(services, newMarket(symbol), csvText(20));
    const rule = { symbols: [] as string[], plus: [] as number[], minus: [] as number[] };
    const all = await services.lists.create("all", "watch", { ...rule, symbols: ["A", "B", "C"] });
    const bad = await services.lists.create("bad", "exclude", { ...rule, symbols: ["B"] });
    const rest = await services.lists.create("rest", "watch", { ...rule, plus: [all], minus: [bad] });
    expect((await services.lists.get(rest))!.symbols).toEqual(["A", "C"]);
    expect((await refusalOf(services.lists.update(all, "all", "watch", { ...rule, plus: [rest] }))).message).toContain("made of itself");
    expect((await refusalOf(services.lists.create("x", "watch", { ...rule, symbols: ["Z"] }))).message).toContain("no market Z");
    expect((await refusalOf(services.lists.remove(bad))).message).toContain("made of this list");
    await services.lists.remove(rest);
    await services.lists.restore(rest);
    expect((await services.lists.list()).length).toBe(3);
    await services.close();
  });

  it("take dated values, for one market or many, all or nothing", async () => {
    const { services } = await running();
    for (const symbol of ["A", "B"]) await addMarket(services, newMarket(symbol), csvText(20));
    expect(await services.series.importCsv("backlog", "date,value\n2015-01-05,10\n2015-01-09,12.5\n", "A")).toEqual({ A: 2 });
    expect(await services.series.importCsv("backlog", "date,A,B\n2015-01-09,13,7\n2015-01-12,,8\n", null)).toEqual({ A: 1, B: 2 });
    const [series] = await services.series.ofMarket("A");
    expect(series.points.value).toEqual([10, 13]);
    expect((await refusalOf(services.series.importCsv("backlog", "date,value\n2015-01-05,ten\n", "A"))).message).toContain("line 2");
    expect((await refusalOf(services.series.importCsv("backlog", "date,A,Z\n2015-01-05,1,2\n", null))).message).toContain(
      "no market is called Z",
    );
    expect((await services.series.ofMarket("A"))[0].points.value).toEqual([10, 13]);
    await services.close();
  });
});
