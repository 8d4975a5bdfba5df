/* Home: the studies, and the runs of one of them as cards. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { type FormEvent, useState } from "react";
import { Link, NavLink, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { answer, api, problemOf } from "../api/client";
import { keys, useStudies, useStudy } from "../api/hooks";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Message, Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { RunCardView } from "./RunCardView";

export function Home() {
  const params = useParams();
  const navigate = useNavigate();
  const studies = useStudies();
  const id = params.study ? Number(params.study) : studies.data?.at(-1)?.id;
  const study = useStudy(id);
  const [asking, setAsking] = useState(false);
  const shown = study.data;
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={shown ? [{ text: shown.study.name }] : []}>
        {id !== undefined && (
          <Button look="accent" onClick={() => navigate(`/studies/${id}/new`)}>
            New run
          </Button>
        )}
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <nav aria-label="Studies" className="w-[226px] shrink-0 overflow-y-auto border-r border-rule p-3.5">
          <div className="mt-3 mb-2 flex items-center justify-between pl-2 text-graphite">
            <h2 className="font-sans text-sm tracking-wide">Studies</h2>
            <Button look="icon" aria-label="New study" title="New study" onClick={() => setAsking(true)}>
              <Plus size={14} />
            </Button>
          </div>
          {studies.data?.map((each) => (
            <NavLink
              key={each.id}
              to={`/studies/${each.id}`}
              className={`flex justify-between gap-2 rounded-md px-2 py-1.5 ${each.id === id ? "bg-rule/60 font-semibold" : "hover:bg-rule/40"}`}
            >
              <span className="min-w-0 truncate" title={each.name}>
                {each.name}
              </span>
              <span className="text-graphite">{each.runs}</span>
            </NavLink>
          ))}
        </nav>
        <main className="flex min-w-0 flex-1 flex-col overflow-y-auto p-5">
          {studies.data?.length === 0 ? (
            <Message
              title="No study yet."
              detail="A study is a folder of runs: a survey, a screen, a validation. Make the first one."
            >
              <Button look="accent" onClick={() => setAsking(true)}>
                New study
              </Button>
            </Message>
          ) : shown ? (
            <>
              <h1 className="text-xl">
                {shown.study.name}
                <span className="ml-3 font-sans text-base font-normal text-graphite">
                  {shown.runs.length === 1 ? "1 run" : `${shown.runs.length} runs`}
                </span>
              </h1>
              {shown.runs.length === 0 ? (
                <Message
                  title="No runs in this study yet."
                  detail="Paste a table of readings to open the first."
                >
                  <Link to={`/studies/${id}/new`} className="text-permanganate underline">
                    New run
                  </Link>
                </Message>
              ) : (
                <ul className="mt-4 grid grid-cols-[repeat(auto-fill,minmax(236px,1fr))] gap-3.5">
                  {shown.runs.map((run) => (
                    <RunCardView key={run.id} run={run} />
                  ))}
                </ul>
              )}
            </>
          ) : (
            <Pending
              failure={
                studies.error ??
                study.error ??
                (studies.failureCount > 1 ? studies.failureReason : study.failureReason)
              }
              onRetry={() => {
                studies.refetch();
                study.refetch();
              }}
            />
          )}
        </main>
      </div>
      <NewStudy open={asking} onClose={() => setAsking(false)} />
    </div>
  );
}

function NewStudy({ open, onClose }: { open: boolean; onClose: () => void }) {
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const create = useMutation({
    mutationFn: () => answer(api.POST("/api/studies", { body: { name } })),
    onSuccess: (made) => {
      queries.invalidateQueries({ queryKey: keys.studies });
      setName("");
      onClose();
      navigate(`/studies/${made.study.id}`);
    },
    onError: (error) => toast.error(`${problemOf(error).title} ${problemOf(error).detail}`),
  });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) create.mutate();
  };
  return (
    <Ask title="New study" open={open} onClose={onClose}>
      <form onSubmit={submit} className="flex flex-col gap-3">
        <input
          aria-label="Name of the study"
          placeholder="Name, for example Autumn mussel survey"
          value={name}
          maxLength={200}
          onChange={(event) => setName(event.target.value)}
          className="rounded-md border border-rule bg-paper px-2.5 py-1.5"
        />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="accent" type="submit" disabled={!name.trim() || create.isPending}>
            Create study
          </Button>
        </div>
      </form>
    </Ask>
  );
}
