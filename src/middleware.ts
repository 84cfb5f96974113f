import { defineMiddleware } from "astro:middleware";
import { answer, sameOrigin } from "#server/http";

export const onRequest = defineMiddleware((context, next) => {
  const { method } = context.request;
  if (method !== "GET" && method !== "HEAD" && !sameOrigin(context.request))
    return answer({ error: "This request comes from another site and was refused." }, 403);
  return next();
});
