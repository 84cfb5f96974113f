import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readDocument, respond, part } from "#server/http";
import { services } from "#server/services";

export const PUT: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { projects } = await services();
    const { revision, document } = await readDocument("save", request);
    return answerTo(API.saveDocument, { revision: await projects.save(part(params, "id"), revision, document) });
  });

export const GET: APIRoute = ({ params }) =>
  respond(async () => answerTo(API.history, await (await services()).projects.history(part(params, "id"))));
