/** A font's licence: whose it is, and its text. */
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "@/api/client";
import { Panel } from "@/ui/Panel";

export function FontLicence({ font, title, onClose }: { font: string; title: string; onClose: () => void }) {
  const { data, error } = useQuery({
    queryKey: ["fonts", font, "licence"],
    queryFn: () => ask(api.GET("/api/fonts/{key}/licence", { params: { path: { key: font } } })),
    staleTime: Infinity,
  });
  return (
    <Panel open onClose={onClose} title={title} description={data?.name} width={620}>
      {error && <p className="text-red-pencil">{error.message}</p>}
      <p className="mb-3">{data?.holder}</p>
      <pre className="max-h-[46vh] overflow-y-auto border-t border-hair pt-3 text-sm whitespace-pre-wrap">
        {data?.text}
      </pre>
    </Panel>
  );
}
