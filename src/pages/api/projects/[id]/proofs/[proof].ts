import type { APIRoute } from "astro";
import { API } from "#api/contract";
import { answerTo, answerWith, readBody, respond, part } from "#server/http";
import { services } from "#server/services";

export const GET: APIRoute = ({ params }) =>
  respond(async () => answerWith(await (await services()).proofs.document(part(params, "id"), part(params, "proof")), {}));

export const PATCH: APIRoute = ({ params, request }) =>
  respond(async () => {
    const { proofs } = await services();
    await proofs.change(part(params, "id"), part(params, "proof"), await readBody(API.changeProof, request));
    return answerTo(API.changeProof, { done: true });
  });
