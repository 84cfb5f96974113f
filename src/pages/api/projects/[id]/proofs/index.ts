import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readDocument, respond, part } from "#server/http";
import { services } from "#server/services";

export const POST: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { proofs } = await services();
    return answerTo(API.keepProof, await proofs.keep(part(params, "id"), await readDocument("keep", request)), 201);
  });
