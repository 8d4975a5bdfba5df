/* The files a run can leave as: their addresses, the links to them, and what is copied to be pasted. */
import { toast } from "sonner";
import { EXPORTS } from "../api/declared";
import { Button } from "../ui/Button";

export function exportOf(run: number, form: string): string {
  return `/api/runs/${run}/answers.${form}`;
}

export function sourceOf(run: number): string {
  return `/api/runs/${run}/source`;
}

/** Copy and download, in the order in which they are declared; `count` answers are said to be copied. */
export function ExportLinks({ run, count }: { run: number; count: number }) {
  const copy = async (form: string) => {
    try {
      // A promise keeps the click's permission while the table is fetched.
      const text = fetch(exportOf(run, form)).then((response) => {
        if (!response.ok) throw new Error("no table");
        return response.blob();
      });
      await navigator.clipboard.write([
        new ClipboardItem({ "text/plain": text.then((blob) => new Blob([blob], { type: "text/plain" })) }),
      ]);
      toast.success(count === 1 ? "Copied 1 answer." : `Copied ${count} answers.`);
    } catch {
      toast.error("The answers could not be copied. Download them as CSV instead.");
    }
  };
  return (
    <>
      {EXPORTS.filter((each) => each.pasted).map(({ form, note }) => (
        <Button key={form} look="text" disabled={count === 0} title={note} onClick={() => copy(form)}>
          Copy
        </Button>
      ))}
      {EXPORTS.filter((each) => !each.pasted).map(({ form, title, note }) => (
        <a
          key={form}
          className="text-permanganate hover:underline"
          href={exportOf(run, form)}
          title={note}
          download
        >
          {title}
        </a>
      ))}
    </>
  );
}
