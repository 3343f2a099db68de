/** What is drawn of the Weave at one moment: the part in view, and what is marked in it. */
import type { Weave } from "../../api/client";
import type { Paint } from "../../ui/paint";
import type { Choice, Cloth } from "./geometry";

/** How a cable lies: as it should, or otherwise; nothing is said of one that is to be laid yet. */
export type Lying = "laid" | "wrong";

/** What a step of a switch is, on its way from a box to being handed over. */
export type Step = "done" | "now" | "ready" | "wrong" | "needs you" | "skipped" | "open" | "unknown";

export interface View {
	scrollX: number;
	scrollY: number;
	width: number;
	height: number;
}

export interface Marks {
	chosen: Choice;
	hovered: Choice;
	racks: Set<string>;
	fresh: ReadonlySet<string>;
	/** Names that match what is searched for, or nothing when nothing is. */
	found: Set<string> | null;
	full: Set<string>;
	/** How the cable of a link lies, by the link's key, while cabling is looked at. */
	laying?: ReadonlyMap<string, Lying>;
	/** The steps of each switch, by its name, while staging is looked at. */
	standing?: ReadonlyMap<string, readonly Step[]>;
}

export interface Scene {
	context: CanvasRenderingContext2D;
	cloth: Cloth;
	weave: Weave;
	view: View;
	marks: Marks;
	paint: Paint;
	hatch: CanvasPattern | string;
	/** The columns in view. */
	from: number;
	to: number;
}
