import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, respond } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ url }) =>
  respond(async () => {
    const { renders, renderer } = await services();
    if (url.searchParams.has("bench")) renderer?.benchAsks();
    return answerTo(API.rendersNow, await renders.going());
  });
