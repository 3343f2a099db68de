/** The brief as prose: everything it can say has its sentence, and the words are controls. */
import { useCallback, useState } from "react";
import { useOpenFabric } from "../../app/open";
import { useKey } from "../../ui/keys";
import { Cables } from "./cables";
import { Hosts } from "./hosts";
import { InALine } from "./line";
import { Marked, Outside } from "./outside";
import { Routing } from "./routing";
import { Segments } from "./segments";
import { Access, Numbers } from "./sentences";
import { Shape } from "./shape";
import { Word } from "./word";

export function Prose() {
	const { brief } = useOpenFabric();
	const [all, setAll] = useState(false);
	useKey("e", stepWords);
	useKey(
		"a",
		useCallback(() => setAll((was) => !was), []),
	);
	const marked =
		Object.keys(brief.out_of_service ?? {}).length + Object.keys(brief.planned_later ?? {}).length > 0;
	return (
		<>
			<h1 className="mb-2 text-[17px] leading-tight font-bold tracking-tight">
				<Word
					path="title"
					value={brief.title}
					say={(value) => `title “${value}”`}
					parse={(text) => text.trim() || null}
				>
					{brief.title || brief.fabric}
				</Word>
			</h1>
			<Part title="Shape">
				<Shape brief={brief} all={all} />
				<InALine />
			</Part>
			<Part title="Routing">
				<Routing brief={brief} all={all} />
			</Part>
			<Part title="Carries">
				<Segments brief={brief} all={all} />
			</Part>
			<Part title="Hosts">
				<Hosts brief={brief} name={brief.fabric} />
			</Part>
			<Part title="Outside">
				<Outside brief={brief} />
			</Part>
			{marked && (
				<Part title="Not in service">
					<Marked brief={brief} />
				</Part>
			)}
			<Part title="Access and services">
				<Access brief={brief} all={all} />
			</Part>
			<Part title="Numbers">
				<Numbers brief={brief} />
			</Part>
			<Part title="Cables">
				<Cables brief={brief} all={all} />
			</Part>
			<p className="mt-4 pb-5 text-soft">
				<kbd>E</kbd> next word &nbsp;<kbd>T</kbd> as text &nbsp;<kbd>A</kbd>{" "}
				{all ? "fewer words" : "every word"}
			</p>
		</>
	);
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
	return (
		<section className="mb-3">
			<h2 className="mt-3.5 mb-0.5 text-[11px] font-semibold tracking-wide text-soft">{title}</h2>
			<div className="leading-[1.62]">{children}</div>
		</section>
	);
}

function stepWords(event: KeyboardEvent) {
	event.preventDefault();
	const words = [...document.querySelectorAll<HTMLElement>("[data-word]")];
	const at = words.indexOf(document.activeElement as HTMLElement);
	words[(at + 1) % words.length]?.focus();
}
