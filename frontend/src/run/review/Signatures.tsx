/* Who signed, when, what it means, and of what. */
import type { Signature } from "../../api/schema";

export function Signatures({ signatures }: { signatures: readonly Signature[] }) {
  if (signatures.length === 0) return null;
  return (
    <>
      <h3 className="mt-6 mb-1 font-sans text-sm text-graphite">Signatures</h3>
      <ul className="border-t border-rule" aria-label="Signatures">
        {signatures.map((each) => (
          <li key={each.digest + each.at} className="border-b border-rule py-1.5">
            <b>{each.name}</b>, {each.meaning} of revision {each.revision}
            <span className="block text-sm text-graphite">
              {new Date(each.at).toLocaleString("en-GB")} · SHA-256{" "}
              <span className="font-mono break-all">{each.digest}</span>
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
