/** A screen that belongs to no fabric: its head, its body, the box on Ctrl+K and the keys. */
import type { ReactNode } from "react";
import { Me } from "../door/me";
import { Home } from "../ui/home";
import { type Keys, KeysDialog } from "../ui/keys";
import { Palette } from "./palette";

export function Screen({ title, keys = [], children }: { title: string; keys?: Keys; children: ReactNode }) {
	return (
		<div className="grid h-dvh grid-cols-[minmax(0,1fr)] grid-rows-[60px_1fr]">
			<header className="flex items-end gap-5 border-b border-hair px-5">
				<Home />
				<span className="pb-3 text-[15px]">{title}</span>
				<span className="ml-auto pb-3 text-[13.5px] text-soft">
					<kbd>Ctrl K</kbd> search <kbd className="ml-3">?</kbd> keys
				</span>
				<Me />
			</header>
			{children}
			<Palette />
			<KeysDialog here={keys} />
		</div>
	);
}
