/** The composed wording of each subject, to be copied out for any picture generator. */
import { tellDone, tellProblem } from "@/ui/notices";

interface Line {
  subject: string;
  wording: string;
  drawable: boolean;
}

export function WordingList({ lines, onOpen }: { lines: Line[]; onOpen: (subject: string) => void }) {
  const copy = (text: string, what: string) =>
    navigator.clipboard.writeText(text).then(
      () => tellDone(`Copied ${what}.`),
      () => tellProblem(new Error("The browser did not allow copying. Select the text and copy it by hand.")),
    );
  return (
    <section aria-label="Wording" className="flex min-h-0 flex-col">
      <div className="flex items-baseline justify-between">
        <h2 className="text-xl">Wording</h2>
        {lines.length > 0 && (
          <button
            type="button"
            className="link"
            onClick={() => void copy(lines.map((line) => line.wording).join("\n"), "the whole list")}
          >
            copy the list
          </button>
        )}
      </div>
      <p className="mb-2 text-pencil">
        Composed from subject, look and rules; works in any picture generator.
      </p>
      <ol className="min-h-0 grow overflow-y-auto border-t border-hair pb-4">
        {lines.map((line) => (
          <li
            key={line.subject}
            className="grid grid-cols-[110px_minmax(0,1fr)_auto] gap-4 border-b border-hair py-2.5"
          >
            <div>
              <button
                type="button"
                className="text-left font-semibold hover:text-blue-pencil"
                onClick={() => onOpen(line.subject)}
              >
                {line.subject}
              </button>
              {!line.drawable && <p className="text-sm text-red-pencil">the stand-in can't draw it</p>}
            </div>
            <p>{line.wording}</p>
            <button
              type="button"
              className="link self-start"
              aria-label={`Copy the wording of ${line.subject}`}
              onClick={() => void copy(line.wording, `the wording of ${line.subject}`)}
            >
              copy
            </button>
          </li>
        ))}
        {lines.length === 0 && (
          <li className="py-6 text-pencil">Write subjects on the left: their wording appears here.</li>
        )}
      </ol>
    </section>
  );
}
