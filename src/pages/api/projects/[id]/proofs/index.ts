import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { parseDocument } from "#core/document/parse";
import { LIMITS } from "#core/document/schema";
import { answerTo, readBody, respond, part } from "#server/http";
import { services } from "#server/services";

export const POST: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { proofs } = await services();
    const proof = await readBody(API.keepProof, request, LIMITS.text);
    return answerTo(API.keepProof, await proofs.keep(part(params, "id"), { ...proof, document: parseDocument(proof.document) }), 201);
  });
