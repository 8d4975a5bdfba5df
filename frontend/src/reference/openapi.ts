/* What the page of the API reads from its OpenAPI document. */

export interface Schema {
  $ref?: string;
  type?: string;
  title?: string;
  description?: string;
  format?: string;
  const?: unknown;
  default?: unknown;
  enum?: unknown[];
  items?: Schema;
  prefixItems?: Schema[];
  anyOf?: Schema[];
  oneOf?: Schema[];
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  required?: string[];
  minimum?: number;
  exclusiveMinimum?: number;
  maximum?: number;
  minLength?: number;
  maxLength?: number;
}

interface Content {
  content?: Record<string, { schema?: Schema }>;
  description?: string;
}

export interface Operation {
  method: string;
  path: string;
  tags?: string[];
  operationId: string;
  description?: string;
  parameters?: { name: string; in: string; required?: boolean; schema: Schema }[];
  requestBody?: Content;
  responses: Record<string, Content>;
}

export interface Document {
  info: { version: string };
  paths: Record<string, Record<string, Omit<Operation, "method" | "path">>>;
  components: { schemas: Record<string, Schema> };
}

/** Every operation, by what it is about, in the order of the document. */
export function byTag(document: Document): Map<string, Operation[]> {
  const found = new Map<string, Operation[]>();
  for (const [path, methods] of Object.entries(document.paths)) {
    for (const [method, operation] of Object.entries(methods)) {
      const tag = operation.tags?.[0] ?? "other";
      found.set(tag, [...(found.get(tag) ?? []), { ...operation, method: method.toUpperCase(), path }]);
    }
  }
  return found;
}

/** The schema of what is sent or given back, and its kind where that is no JSON. */
export function schemaOf(content: Content | undefined): { schema?: Schema; kind: string } {
  const [kind, body] = Object.entries(content?.content ?? {})[0] ?? ["", undefined];
  return { schema: body?.schema, kind: kind === "application/json" ? "" : kind };
}

/** Names of the schemas a schema is made of, each once: those it can be opened into. */
export function partsOf(schema: Schema): string[] {
  const own = schema.$ref ? [schema.$ref.split("/").at(-1)!] : [];
  const rest = typeof schema.additionalProperties === "object" ? [schema.additionalProperties] : [];
  const below = [
    schema.items,
    ...(schema.prefixItems ?? []),
    ...(schema.anyOf ?? []),
    ...(schema.oneOf ?? []),
    ...rest,
  ];
  return [...new Set([...own, ...below.flatMap((each) => (each ? partsOf(each) : []))])];
}

/** A schema in few words: "list of Group", "text or null", "number, 0 to 10". */
export function inWords(schema: Schema): string {
  if (schema.$ref) return schema.$ref.split("/").at(-1)!;
  if (schema.const !== undefined) return JSON.stringify(schema.const);
  if (schema.enum) return schema.enum.map((each) => JSON.stringify(each)).join(" or ");
  const several = schema.anyOf ?? schema.oneOf;
  if (several) return [...new Set(several.map(inWords))].join(" or ");
  if (schema.type === "array") {
    if (schema.prefixItems) return `(${schema.prefixItems.map(inWords).join(", ")})`;
    return `list of ${schema.items ? inWords(schema.items) : "anything"}`;
  }
  if (schema.type === "object") {
    const each = schema.additionalProperties;
    return typeof each === "object" ? `${inWords(each)} by name` : "object";
  }
  if (schema.type === "string") {
    return schema.maxLength === undefined ? "text" : `text of up to ${schema.maxLength.toLocaleString("en")}`;
  }
  const least =
    schema.minimum ?? (schema.exclusiveMinimum === undefined ? undefined : schema.exclusiveMinimum);
  const above = schema.exclusiveMinimum === undefined ? "from" : "above";
  const ends = [
    least === undefined ? "" : ` ${above} ${least}`,
    schema.maximum === undefined ? "" : ` up to ${schema.maximum}`,
  ].join("");
  const kinds: Record<string, string> = {
    integer: "whole number",
    number: "number",
    boolean: "true or false",
    null: "null",
  };
  return `${kinds[schema.type ?? ""] ?? "anything"}${ends}`;
}
