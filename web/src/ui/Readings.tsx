export interface ReadingRow {
  label: string;
  value: string;
  limit?: string;
  state?: "pass" | "fail" | "warn";
}

const TONE = { pass: "text-leaf", fail: "font-semibold text-red-pencil", warn: "text-ochre-text" } as const;
const SIGN = { pass: "✓", fail: "✗", warn: "!" } as const;

/** Numbers in columns: what was measured, its limit, and a tick or a red mark. */
export function Readings({ rows }: { rows: ReadingRow[] }) {
  const limits = rows.some((row) => row.limit);
  const judged = rows.some((row) => row.state);
  return (
    <table className="w-full border-collapse">
      <tbody>
        {rows.map((row) => {
          const tone = row.state ? TONE[row.state] : "";
          return (
            <tr key={row.label} className="align-baseline">
              <th
                scope="row"
                className={`py-0.5 pr-2 text-left font-normal whitespace-nowrap ${row.state === "fail" ? tone : ""}`}
              >
                {row.label}
              </th>
              <td className={`num py-0.5 text-right whitespace-nowrap ${tone}`}>{row.value}</td>
              {limits && (
                <td className="num py-0.5 pl-2 text-right whitespace-nowrap text-pencil">
                  {row.limit ?? ""}
                </td>
              )}
              {judged && (
                <td className={`w-[15px] text-right ${tone}`} aria-label={row.state}>
                  {row.state ? SIGN[row.state] : ""}
                </td>
              )}
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
