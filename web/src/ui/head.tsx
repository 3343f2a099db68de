/** The head of a screen that belongs to no fabric: where one is, and what the screen adds. */
import type { ReactNode } from "react";
import { Home } from "./home";

export function Head({ title, children }: { title: string; children?: ReactNode }) {
	return (
		<header className="flex items-end gap-2.5 border-b border-hair px-5">
			<Home />
			<span className="ml-3 pb-3 text-[15px]">{title}</span>
			<span className="ml-auto flex items-end gap-5 text-[13.5px] text-soft">{children}</span>
		</header>
	);
}
