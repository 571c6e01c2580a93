// Lingui's tools look for files by a function that Node has from version 22 on.
// On an older one they are given the same by a library.
import fs from "node:fs";
import { register } from "node:module";

if (!("globSync" in fs)) register("./glob-hooks.mjs", import.meta.url);
