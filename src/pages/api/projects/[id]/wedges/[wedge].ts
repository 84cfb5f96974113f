import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, answerWith, readBody, respond, part } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => answerWith(await (await services()).wedges.document(part(params, "id"), part(params, "wedge")), {}));

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { wedges } = await services();
    await wedges.change(part(params, "id"), part(params, "wedge"), await readBody(API.changeWedge, request));
    return answerTo(API.changeWedge, { done: true });
  });
