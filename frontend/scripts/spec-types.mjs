// Makes types of the schema of a spec's document: openapi-typescript reads schemas within an OpenAPI document.
import { readFileSync, writeFileSync } from "node:fs";
import openapiTS, { astToString } from "openapi-typescript";

const text = readFileSync("../docs/spec.schema.json", "utf8");
const { $defs, ...spec } = JSON.parse(text.replaceAll("#/$defs/", "#/components/schemas/"));
const types = await openapiTS(
  {
    openapi: "3.1.0",
    info: { title: "A spec", version: "1" },
    paths: {},
    components: { schemas: { ...$defs, Spec: spec } },
  },
  // What has a default may be left out of a document.
  { defaultNonNullable: false },
);
writeFileSync("src/api/spec.d.ts", astToString(types));
