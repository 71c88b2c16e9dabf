// Writes docs/*.schema.json anew from the descriptions of records.
import { writeFileSync } from 'node:fs';
import { schemaFiles } from '../packages/model/dist/index.js';

for (const [name, text] of schemaFiles())
  writeFileSync(new URL(`../docs/${name}.schema.json`, import.meta.url), text);
