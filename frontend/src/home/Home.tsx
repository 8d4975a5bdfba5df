/* Home: the studies, and the runs of one of them as cards. */
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { type FormEvent, useEffect, useState } from "react";
import { NavLink, useNavigate, useParams } from "react-router";
import { toast } from "sonner";
import { answer, api, problemOf } from "../api/client";
import { keys, useStudies, useStudy } from "../api/hooks";
import { may, useMe } from "../people/me";
import { Ask } from "../ui/Ask";
import { Button } from "../ui/Button";
import { Message, Pending } from "../ui/Message";
import { TopBar } from "../ui/TopBar";
import { keepLastStudy, lastStudy } from "./lastStudy";
import { ReadStudyIn } from "./ReadStudyIn";
import { Runs } from "./Runs";
import { StudyHead } from "./StudyHead";

export function Home() {
  const params = useParams();
  const navigate = useNavigate();
  const studies = useStudies();
  const { data: me } = useMe();
  const current = studies.data?.filter((each) => !each.archived);
  const [away, setAway] = useState(false);
  const last = studies.data?.find((each) => each.id === lastStudy());
  const id = params.study ? Number(params.study) : (last ?? current?.[0] ?? studies.data?.[0])?.id;
  useEffect(() => {
    if (params.study) keepLastStudy(Number(params.study));
  }, [params.study]);
  const listed = studies.data?.filter((each) => away || !each.archived || each.id === id);
  const study = useStudy(id);
  const [asking, setAsking] = useState(false);
  const shown = study.data;
  return (
    <div className="flex h-full flex-col">
      <TopBar trail={shown ? [{ text: shown.name }] : []}>
        {id !== undefined && may(me, "work", id) && (
          <Button look="accent" onClick={() => navigate(`/studies/${id}/new`)}>
            New run
          </Button>
        )}
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <nav aria-label="Studies" className="w-[226px] shrink-0 overflow-y-auto border-r border-rule p-3.5">
          <div className="mt-3 mb-2 flex items-center justify-between pl-2 text-graphite">
            <h2 className="font-sans text-sm tracking-wide">Studies</h2>
            {may(me, "work") && (
              <Button look="icon" aria-label="New study" title="New study" onClick={() => setAsking(true)}>
                <Plus size={14} />
              </Button>
            )}
          </div>
          {listed?.map((each) => (
            <NavLink
              key={each.id}
              to={`/studies/${each.id}`}
              className={`flex justify-between gap-2 rounded-md px-2 py-1.5 ${each.id === id ? "bg-rule/60 font-semibold" : "hover:bg-rule/40"}`}
            >
              <span className={`min-w-0 truncate ${each.archived ? "text-graphite" : ""}`} title={each.name}>
                {each.name}
              </span>
              <span className="text-graphite">{each.runs}</span>
            </NavLink>
          ))}
          <h2 className="mt-6 mb-2 pl-2 font-sans text-sm tracking-wide text-graphite">Across runs</h2>
          {[
            { to: "/methods", text: "Methods" },
            { to: "/batches", text: "Batches" },
          ].map(({ to, text }) => (
            <NavLink key={to} to={to} className="block rounded-md px-2 py-1.5 hover:bg-rule/40">
              {text}
            </NavLink>
          ))}
          {(studies.data?.length ?? 0) > (current?.length ?? 0) && (
            <Button look="text" className="mt-2 pl-2 text-sm" onClick={() => setAway(!away)}>
              {away ? "Hide those put away" : "Show those put away"}
            </Button>
          )}
        </nav>
        <main className="flex min-h-0 min-w-0 flex-1 flex-col p-5 pb-0">
          {studies.data?.length === 0 && !may(me, "work") ? (
            <Message
              title="No study for you yet."
              detail="An administrator of your lab gives rights to studies; ask for those you work on."
            />
          ) : studies.data?.length === 0 ? (
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
              <StudyHead study={shown} />
              <Runs key={shown.id} study={shown.id} />
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
      navigate(`/studies/${made.id}`);
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
      <ReadStudyIn
        onDone={(study) => {
          queries.invalidateQueries({ queryKey: keys.studies });
          onClose();
          navigate(`/studies/${study}`);
        }}
      />
    </Ask>
  );
}
