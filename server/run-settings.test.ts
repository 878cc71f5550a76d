import { describe, expect, it } from "vitest";
import { addMarket, csvText, emptyFolder, newMarket, openTest, refusal, runSettings, SWING } from "./testing/services";

const HARSH = { costs: { of: "hand", times: 3 }, intrabar: "pessimistic" } as const;

describe("saved run settings", () => {
  it("have a name and versions; what says the same makes no new one", async () => {
    const services = await openTest(emptyFolder());
    const { runSettings: store } = services;
    const id = await store.create(" Harsh ", HARSH, "to begin with");
    expect(await store.save(id, 1, "Harsh", { ...HARSH, capital: 5000 }, "a smaller account")).toBe(2);
    expect(await store.save(id, 2, "Harsher", { ...HARSH, capital: 5000 })).toBe(2);
    const history = (await store.get(id))!;
    expect([history.name, history.versions.map(({ number, note }) => [number, note])]).toEqual([
      "Harsher",
      [
        [2, "a smaller account"],
        [1, "to begin with"],
      ],
    ]);
    expect((await store.list()).map(({ name, number, saved }) => [name, number, saved.capital])).toEqual([["Harsher", 2, 5000]]);
    expect((await store.version(id, 1))!.saved).toEqual(HARSH);
    expect(await store.version(id, 9)).toBeNull();
    await services.close();
  });

  it("are refused with every problem, and nothing is stored", async () => {
    const services = await openTest(emptyFolder());
    const { runSettings: store } = services;
    await store.create("Harsh", HARSH);
    const { problems } = await refusal(store.create("Harsh", { capital: -1 }));
    expect(problems.map(({ path }) => path)).toEqual(["capital", "name"]);
    expect((await refusal(store.create(" ", {}))).problems.map(({ path }) => path)).toEqual(["", "name"]);
    expect((await store.list()).length).toBe(1);
    await services.close();
  });

  it("saved in two windows at once: the second is told", async () => {
    const services = await openTest(emptyFolder());
    const { runSettings: store } = services;
    const id = await store.create("Harsh", HARSH);
    await store.save(id, 1, "Harsh", { ...HARSH, capital: 1 });
    const { status, message } = await refusal(store.save(id, 1, "Harsh", { ...HARSH, capital: 2 }));
    expect([status, message]).toEqual([409, "version 2 was saved meanwhile; load the page again to see it"]);
    await services.close();
  });

  it("can be taken out and brought back, under another name where theirs was taken", async () => {
    const services = await openTest(emptyFolder());
    const { runSettings: store } = services;
    const id = await store.create("Harsh", HARSH);
    await store.remove(id);
    expect(await store.list()).toEqual([]);
    expect((await refusal(store.remove(id))).status).toBe(404);
    expect((await refusal(store.save(id, 1, "Harsh", HARSH))).status).toBe(404);
    await store.create("Harsh", HARSH);
    await store.putBack(id);
    expect((await store.list()).map(({ name }) => name)).toEqual(["Harsh", "Harsh 2"]);
    await services.close();
  });

  it("are named by the runs that were computed under them", async () => {
    const services = await openTest(emptyFolder());
    const market = await addMarket(services, newMarket("EEL"), csvText(400));
    const version = await services.strategies.create(SWING, "", null);
    const id = await services.runSettings.create("Harsh", HARSH);
    const { versionId } = (await services.runSettings.version(id, 1))!;
    const plain = await services.runs.save(version, runSettings(market));
    expect((await services.runs.get(plain))!.summary.under).toBeNull();
    const run = await services.runs.save(version, runSettings(market, { capital: 77_000 }), {
      under: versionId,
      hand: runSettings(market),
    });
    expect((await services.runs.get(run))!.summary.under).toEqual({ id, name: "Harsh", number: 1 });
    expect((await services.strategies.version(version.id))!.settings!.capital).toBe(runSettings(market).capital);
    await services.runSettings.remove(id);
    expect((await services.runs.get(run))!.summary.under).toEqual({ id, name: "Harsh", number: 1 });
    await services.close();
  });
});
