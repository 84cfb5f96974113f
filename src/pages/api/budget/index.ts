import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, respond } from "#server/http";
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
    return answerTo(API.budget, { records, cleanRate, threads: alone, busy: going > 0 });
  });
