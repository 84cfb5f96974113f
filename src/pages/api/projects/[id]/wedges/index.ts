import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readDocument, respond, part } from "#server/http";
import { services } from "#server/services";

export const POST: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { wedges } = await services();
    return answerTo(API.makeWedge, await wedges.make(part(params, "id"), await readDocument("wedge", request)), 201);
  });
