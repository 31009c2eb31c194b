import type { ReactNode } from "react";

export function Section({
  title,
  aside,
  children,
}: {
  title: string;
  aside?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section className="border-b border-hair px-4 pt-2.5 pb-3 last:border-b-0">
      <div className="mb-1.5 flex items-baseline justify-between gap-2">
        <h3 className="text-lg">{title}</h3>
        {aside}
      </div>
      {children}
    </section>
  );
}
