/** A part of one's own page. */
import type { ReactNode } from "react";

export function Part({ title, children }: { title: string; children: ReactNode }) {
	return (
		<section aria-label={title}>
			<h2 className="mb-2 border-b border-hair pb-1 text-[15px] font-bold">{title}</h2>
			{children}
		</section>
	);
}
