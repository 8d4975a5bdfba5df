/* How the page of the API puts a schema into words, and what it can be opened into. */
import { expect, test } from "vitest";
import { byTag, type Document, inWords, partsOf, schemaOf } from "../src/reference/openapi";

test("a schema is said in few words", () => {
  expect(inWords({ type: "array", items: { $ref: "#/components/schemas/Group" } })).toBe("list of Group");
  expect(inWords({ anyOf: [{ type: "string", maxLength: 2000 }, { type: "null" }] })).toBe(
    "text of up to 2,000 or null",
  );
  expect(inWords({ type: "number", exclusiveMinimum: 0, maximum: 10 })).toBe("number above 0 up to 10");
  expect(inWords({ type: "integer", minimum: 1 })).toBe("whole number from 1");
  expect(inWords({ enum: ["mean", "median"] })).toBe('"mean" or "median"');
  expect(inWords({ type: "object", additionalProperties: { type: "boolean" } })).toBe(
    "true or false by name",
  );
  expect(inWords({ type: "array", prefixItems: [{ type: "number" }, { type: "string" }] })).toBe(
    "(number, text)",
  );
  expect(inWords({})).toBe("anything");
});

test("what a schema is made of is named once, however deep it lies", () => {
  const group = { $ref: "#/components/schemas/Group" };
  const schema = {
    anyOf: [group, { type: "array", items: group }, { additionalProperties: { $ref: "#/x/Value" } }],
  };
  expect(partsOf(schema)).toEqual(["Group", "Value"]);
});

test("operations stand by what they are about, files by their kind", () => {
  const responses = { 200: { content: { "text/csv": { schema: {} } } } };
  const document: Document = {
    info: { version: "1" },
    paths: {
      "/a": { get: { tags: ["runs"], operationId: "a", responses } },
      "/b": { post: { operationId: "b", responses } },
    },
    components: { schemas: {} },
  };
  const found = byTag(document);
  expect([...found.keys()]).toEqual(["runs", "other"]);
  expect(found.get("runs")?.[0]).toMatchObject({ method: "GET", path: "/a" });
  expect(schemaOf(responses[200]).kind).toBe("text/csv");
});
