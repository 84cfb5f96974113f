import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, readBody, respond, part } from "#server/http";
import { services } from "#server/services";

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { proofs } = await services();
    await proofs.change(part(params, "id"), part(params, "proof"), await readBody(API.changeProof, request));
    return answerTo(API.changeProof, { done: true });
  });
