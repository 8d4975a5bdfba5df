/* A method: its recipe, its runs, their trends and its batches; and the way to use it on new readings. */
import { lazy, Suspense } from "react";
import { Link, useNavigate, useParams, useSearchParams } from "react-router";
import type { MethodView } from "../api/schema";
import { BatchList } from "../batches/BatchList";
import { Button } from "../ui/Button";
import { Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { MethodRuns } from "./MethodRuns";
import { useMethod } from "./queries";
import { Recipe } from "./Recipe";
import { StateMark } from "./StateMark";
import { UseMethod } from "./UseMethod";

const TrendsView = lazy(async () => ({ default: (await import("../trends/TrendsView")).TrendsView }));
const TABS = [
  { value: "recipe", text: "Recipe" },
  { value: "runs", text: "Runs" },
  { value: "trends", text: "Trends" },
  { value: "batches", text: "Batches" },
];

export function MethodPage() {
  const params = useParams();
  const id = Number(params.method);
  const tab = TABS.find(({ value }) => value === params.tab)?.value ?? "recipe";
  const [query] = useSearchParams();
  const { data, error, failureReason, refetch } = useMethod(id, Number(query.get("version")) || null);
  const navigate = useNavigate();
  return (
    <div className="flex h-full min-w-[960px] flex-col">
      <TopBar trail={[{ text: "Methods", to: "/methods" }, { text: data?.head.name ?? "Method" }]}>
        {data && <Mark view={data} />}
        <nav aria-label="Views of the method" className="mr-2 flex gap-1">
          {TABS.map(({ value, text }) => (
            <Link
              key={value}
              to={`/methods/${id}/${value}`}
              aria-current={tab === value ? "page" : undefined}
              className={`flex h-[45px] items-center border-b-3 px-3 ${tab === value ? "border-permanganate font-semibold" : "border-transparent text-graphite hover:text-ink"}`}
            >
              {text}
              {value === "runs" && data ? ` ${data.head.runs.toLocaleString("en-GB")}` : ""}
            </Link>
          ))}
        </nav>
        <Button onClick={() => navigate(`/methods/${id}/batch`)}>Many files…</Button>
        <UseMethod method={id} />
      </TopBar>
      {data ? (
        <main className="flex min-h-0 flex-1 flex-col">
          <h1 className="sr-only">{data.head.name}</h1>
          {tab === "recipe" && <Recipe view={data} />}
          {tab === "runs" && <MethodRuns method={id} />}
          {tab === "batches" && <BatchList method={id} />}
          <Suspense fallback={null}>{tab === "trends" && <TrendsView method={id} />}</Suspense>
        </main>
      ) : (
        <Pending failure={error ?? failureReason} onRetry={refetch} />
      )}
    </div>
  );
}

function Mark({ view }: { view: MethodView }) {
  const shown = view.head.versions.find((each) => each.number === view.number)!;
  return <StateMark number={shown.number} state={shown.state} />;
}
