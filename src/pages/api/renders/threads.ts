import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readBody, respond } from "#server/http";
import { services } from "#server/services";

export const PUT: APIRoute = ({ request }) =>
  respond(async () => {
    const { renders } = await services();
    await renders.setThreads(await readBody(API.setRenderThreads, request));
    return answerTo(API.setRenderThreads, { done: true });
  });
