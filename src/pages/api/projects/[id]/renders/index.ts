import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, part, readDocument, respond } from "#server/http";
import { services } from "#server/services";

export const POST: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { renders } = await services();
    return answerTo(API.orderRender, await renders.order(part(params, "id"), await readDocument("render", request)), 201);
  });
