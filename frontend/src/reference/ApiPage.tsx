/* The API, for people who write programs: every address, what it takes and what it gives, read from its own document. */
import { useQuery } from "@tanstack/react-query";
import { Message } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { Parts } from "./Fields";
import { byTag, type Document, inWords, type Operation, partsOf, type Schema, schemaOf } from "./openapi";

const DOCUMENT = "/api/openapi.json";

export function ApiPage() {
  const document = useQuery({
    queryKey: ["openapi"],
    queryFn: async () => (await fetch(DOCUMENT)).json() as Promise<Document>,
  });
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={[{ text: "API" }]} />
      <main className="min-h-0 flex-1 overflow-y-auto px-6 py-5">
        {document.isError && (
          <Message title="The API does not answer." detail="Reload the page in a moment." />
        )}
        {document.data && <Everything document={document.data} />}
      </main>
    </div>
  );
}

function Everything({ document }: { document: Document }) {
  const tags = [...byTag(document)];
  return (
    <div className="mx-auto max-w-[62rem]">
      <h1 className="text-2xl">API</h1>
      <p className="mt-1 max-w-[46rem] text-graphite">
        All that the pages do goes through these addresses, with JSON. A refusal is a problem document (RFC
        9457) whose <code className="text-sm">detail</code> says what to do.{" "}
        <a className="text-permanganate underline" href={DOCUMENT}>
          The OpenAPI document
        </a>{" "}
        is made from the code of version {document.info.version}; client libraries can be made from it.
      </p>
      <nav aria-label="Parts of the API" className="mt-3 flex flex-wrap gap-x-4">
        {tags.map(([tag]) => (
          <a key={tag} href={`#${slug(tag)}`} className="text-permanganate hover:underline">
            {tag}
          </a>
        ))}
      </nav>
      {tags.map(([tag, operations]) => (
        <section key={tag} id={slug(tag)} className="mt-6">
          <h2 className="text-xl first-letter:uppercase">{tag}</h2>
          {operations.map((operation) => (
            <One
              key={operation.method + operation.path}
              operation={operation}
              schemas={document.components.schemas}
            />
          ))}
        </section>
      ))}
    </div>
  );
}

function slug(tag: string): string {
  return tag.replaceAll(" ", "-");
}

function One({ operation, schemas }: { operation: Operation; schemas: Record<string, Schema> }) {
  const sent = schemaOf(operation.requestBody);
  const [status, given] = Object.entries(operation.responses).find(([code]) => code.startsWith("2")) ?? [
    "",
    undefined,
  ];
  const back = schemaOf(given);
  return (
    <article className="mt-3 border-t border-rule pt-2">
      <h3 className="font-mono text-[13px] font-normal">
        <strong className="mr-2 inline-block w-14 font-semibold">{operation.method}</strong>
        {operation.path}
      </h3>
      <div className="pl-16">
        <p className="max-w-[46rem] whitespace-pre-line">{operation.description}</p>
        {operation.parameters?.map((each) => (
          <p key={each.name} className="text-sm text-graphite">
            <span className="font-mono text-ink">{each.name}</span> in the{" "}
            {each.in === "path" ? "address" : each.in}: {inWords(each.schema)}
            {each.required ? "" : ", may be left out"}
          </p>
        ))}
        {sent.schema && (
          <p className="text-sm text-graphite">
            <span className="text-ink">Takes</span> {inWords(sent.schema)}
            {sent.kind && ` (${sent.kind})`}
          </p>
        )}
        <p className="text-sm text-graphite">
          <span className="text-ink">Gives</span> {status}
          {back.schema && Object.keys(back.schema).length > 0 && ` ${inWords(back.schema)}`}
          {back.kind && ` (${back.kind})`}
        </p>
        <Parts
          of={[...new Set([sent.schema, back.schema].flatMap((each) => (each ? partsOf(each) : [])))]}
          schemas={schemas}
        />
      </div>
    </article>
  );
}
