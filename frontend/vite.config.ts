import { copyFileSync, mkdirSync, readdirSync } from "node:fs";
import { join } from "node:path";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** The fonts that captions are drawn with come from the same packages as those of the page; the server reads them from the build. */
const captionFonts = (): Plugin => ({
  name: "caption-fonts",
  writeBundle({ dir = "dist" }) {
    const packages = join(import.meta.dirname, "node_modules", "@fontsource-variable");
    for (const family of readdirSync(packages)) {
      const files = join(packages, family, "files");
      const out = join(dir, "fonts", family);
      mkdirSync(out, { recursive: true });
      for (const file of ["LICENSE", "unicode.json"]) copyFileSync(join(packages, family, file), join(out, file));
      for (const file of readdirSync(files)) if (file.endsWith("-wght-normal.woff2")) copyFileSync(join(files, file), join(out, file));
    }
  },
});

export default defineConfig({
  plugins: [react(), tailwindcss(), captionFonts()],
  build: { target: "es2022", chunkSizeWarningLimit: 900, assetsInlineLimit: 0 },
  server: { proxy: { "/api": "http://127.0.0.1:8750" } },
});
