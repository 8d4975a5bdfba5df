/* The fields of one schema; what they are made of opens below them. */
import { useState } from "react";
import { inWords, partsOf, type Schema } from "./openapi";

interface Props {
  name: string;
  schemas: Record<string, Schema>;
}

export function Fields({ name, schemas }: Props) {
  const schema = schemas[name] ?? {};
  const fields = Object.entries(schema.properties ?? {});
  const required = new Set(schema.required);
  return (
    <div className="my-1 border-l-2 border-rule pl-3">
      {schema.description && <p className="text-graphite whitespace-pre-line">{schema.description}</p>}
      {fields.length === 0 && <p>{inWords({ ...schema, description: undefined })}</p>}
      {fields.length > 0 && (
        <table className="text-sm" aria-label={`Fields of ${name}`}>
          <tbody>
            {fields.map(([field, each]) => (
              <tr key={field} className="align-top">
                <th scope="row" className="pr-3 text-left font-mono font-normal whitespace-nowrap">
                  {field}
                </th>
                <td className="text-graphite">
                  {inWords(each)}
                  {!required.has(field) && ", may be left out"}
                  {each.default !== undefined && ` (then ${JSON.stringify(each.default)})`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Parts
        of={[...new Set(fields.flatMap(([, each]) => partsOf(each)).concat(partsOf(schema)))]}
        schemas={schemas}
      />
    </div>
  );
}

/** Names of schemas, each of which opens. */
export function Parts({ of, schemas }: { of: string[]; schemas: Record<string, Schema> }) {
  const [open, setOpen] = useState("");
  if (of.length === 0) return null;
  return (
    <>
      <p className="mt-1 flex flex-wrap gap-x-3 text-sm">
        {of.map((name) => (
          <button
            key={name}
            type="button"
            aria-expanded={open === name}
            onClick={() => setOpen(open === name ? "" : name)}
            className={`cursor-pointer text-permanganate ${open === name ? "font-semibold" : "hover:underline"}`}
          >
            {name}
          </button>
        ))}
      </p>
      {open && <Fields name={open} schemas={schemas} />}
    </>
  );
}
