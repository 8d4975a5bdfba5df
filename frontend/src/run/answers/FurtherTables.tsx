/* Below the answers, those that rest on them: what rates depend on, the peaks of scans, how they change. */
import type { AnswerTable } from "../../api/schema";
import { useOpenRun } from "../state/open";
import { useSelection } from "../state/selection";
import { cellAt, headingOf, spanOf } from "./table";

export function FurtherTables() {
  const { further } = useOpenRun().view.revision.outcome;
  return (
    <>
      {(further ?? []).map((table) => (
        <Table key={table.title} table={table} />
      ))}
    </>
  );
}

function Table({ table }: { table: AnswerTable }) {
  const { showNumber } = useSelection();
  const columns = (table.columns ?? []).filter((column) => column.where !== "exports");
  return (
    <section
      aria-label={table.title ?? ""}
      tabIndex={0}
      className="mt-2 max-h-[200px] overflow-auto rounded-lg border border-rule bg-chalk"
    >
      <table aria-label={table.title} className="w-full text-md">
        <caption className="px-3 pt-1.5 text-left text-sm text-graphite">{table.title}</caption>
        <thead className="text-sm text-graphite">
          <tr>
            <th className="px-3 py-1 text-left font-normal">{table.of}</th>
            {columns.map((column) => (
              <th key={column.id} className="px-3 py-1 text-right font-normal">
                {headingOf(column, column.kind === "value")}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(table.rows ?? []).map((row, at) => (
            <tr key={row.key} className="border-t border-rule/70">
              <td className="px-3 py-1 font-semibold">{row.name}</td>
              {columns.map((column) => {
                const cell = cellAt(column, at);
                return (
                  <td
                    key={column.id}
                    data-column={column.id}
                    className="whitespace-nowrap px-3 py-1 text-right"
                  >
                    {column.working ? (
                      <button
                        type="button"
                        title={cell.value === null ? "" : `In full: ${cell.value} – show working`}
                        className={
                          column.lead ? "font-bold hover:text-permanganate" : "hover:text-permanganate"
                        }
                        onClick={() =>
                          showNumber({
                            id: `${row.key}${column.working}`,
                            title: `${column.name} of ${row.name}`,
                          })
                        }
                      >
                        {cell.text}
                      </button>
                    ) : (
                      cell.text
                    )}
                    {column.kind === "value" && <span className="ml-2 text-graphite">{spanOf(cell)}</span>}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
