import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, respond } from "#server/http";
import { readMachines } from "#server/machines-file";
import { services } from "#server/services";

export const GET: APIRoute = () =>
  respond(async () => {
    const { renders, budget } = await services();
    const [records, cleanRate, { alone }, { going }] = await Promise.all([
      budget.records(),
      budget.cleanRate(),
      renders.threads(),
      renders.going(),
    ]);
    const machines = await readMachines(renders.folder);
    const working = machines?.machines.filter((m) => m.standing === "works").length ?? 0;
    const fleet = machines && working > 0 ? { machines: working, threads: machines.threads } : null;
    // what other machines do disturbs nothing here
    return answerTo(API.budget, { records, cleanRate, threads: alone, busy: going > 0 && !fleet, fleet });
  });
