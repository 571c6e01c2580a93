// Puts every text of the source into the catalogues under locales/, and makes those
// of the made-up languages anew. Run it as `npm run words` after changing a text;
// it fails when one is not translated.
import "./glob.mjs";

import { fileURLToPath } from "node:url";

const extract = fileURLToPath(new URL("../node_modules/@lingui/cli/dist/lingui-extract.js", import.meta.url));
const { default: command } = await import(extract);
const { getConfig } = await import("@lingui/conf");
const { makeUp } = await import("./made-up.mjs");
const { usualTexts } = await import("./usual-texts.mjs");
const { getCatalogs } = await import("@lingui/cli/api");
const missing = [];

for (const configPath of ["lingui.config.ts", "lingui.visitors.ts"]) {
  const config = getConfig({ configPath });
  const done = await command(config, {
    verbose: false,
    clean: true,
    overwrite: false,
    workersOptions: { poolSize: 0 },
  });
  if (!done) process.exit(1);
  for (const catalog of await getCatalogs(config))
    for (const [language, texts] of Object.entries(await catalog.readAll()))
      for (const { message, translation } of Object.values(texts))
        if (!translation && !language.includes("-X")) missing.push(`${language}: ${message}`);
}
for (const part of ["console", "later", "panel", "parts", "problems"]) await makeUp(`locales/${part}`);
await usualTexts("../core/widget/words/panel.json");
// The build takes the English words where there are no others: it does not fail by itself.
if (missing.length > 0) {
  console.error(`not translated:\n${missing.join("\n")}`);
  process.exit(1);
}
