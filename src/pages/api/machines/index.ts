import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, respond } from "#server/http";
import { readMachines } from "#server/machines-file";
import { services } from "#server/services";

export const GET: APIRoute = () =>
  respond(async () => answerTo(API.machines, { machines: await readMachines((await services()).renders.folder) }));
