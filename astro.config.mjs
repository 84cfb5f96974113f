import { createReadStream, existsSync } from "node:fs";
import node from "@astrojs/node";
import react from "@astrojs/react";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "astro/config";

const isolation = {
  "Cross-Origin-Opener-Policy": "same-origin",
  "Cross-Origin-Embedder-Policy": "require-corp",
  "Cross-Origin-Resource-Policy": "same-origin",
};

/** Serves the compiled kernel in development; the build copies it among the static files. */
const kernelFiles = {
  name: "kernel-files",
  configureServer(server) {
    server.middlewares.use("/kernel", (request, response, next) => {
      const file = `build/kernel${request.url}`;
      if (!/^\/kernel\.(shared|plain)\.wasm$/.test(request.url ?? "") || !existsSync(file)) return next();
      response.setHeader("Content-Type", "application/wasm");
      createReadStream(file).pipe(response);
    });
  },
};

export default defineConfig({
  output: "server",
  adapter: node({ mode: "standalone" }),
  // the compiler keeps what an edit did not touch: an edit of one field must not draw the whole sheet anew
  integrations: [react({ babel: { plugins: ["babel-plugin-react-compiler"] } })],
  // endpoints check the Origin of every changing request themselves (src/middleware.ts)
  security: { checkOrigin: false },
  devToolbar: { enabled: false },
  // scripts and styles of pages run by their hashes alone; what is no page gets its policy in scripts/start.mjs
  experimental: {
    csp: {
      directives: [
        "default-src 'self'",
        "connect-src 'self'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "worker-src 'self' blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
      ],
      scriptDirective: { resources: ["'self'", "'wasm-unsafe-eval'"] },
      styleDirective: { resources: ["'self'"] },
    },
  },
  vite: {
    plugins: [tailwindcss(), kernelFiles],
    server: { headers: isolation, watch: { ignored: ["**/var/**", "**/build/**"] } },
    worker: { format: "es" },
    build: { target: "es2022", chunkSizeWarningLimit: 1500 },
  },
});
