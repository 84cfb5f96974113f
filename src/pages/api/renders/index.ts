import { availableParallelism } from "node:os";
import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = () =>
  respond(async () => {
    const { renders, renderer, readOnly } = await services();
    return answerTo(API.renders, {
      renders: await renders.list(),
      folder: renders.folder,
      free: readOnly === null ? await renders.free() : 0,
      processors: availableParallelism(),
      threads: await renders.threads(),
      elsewhere: (await renderer?.elsewhere()) ?? null,
      readOnly,
    });
  });
