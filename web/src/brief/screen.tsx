/** The brief: prose at the left, the Weave under its sums in the middle, Because at the right. */
import { useCallback } from "react";
import { useSearchParams } from "react-router";
import { useWeave } from "../api/queries";
import { useKey } from "../ui/keys";
import { usePlace } from "../ui/place";
import { ScreenKeys, useOpenFabric } from "../ui/street";
import { BriefMargin } from "./margin";
import { Prose } from "./prose";
import { SumsBar } from "./sums";
import { BriefText } from "./text";
import { WeavePicture } from "./weave";

export function BriefScreen() {
	const fabric = useOpenFabric();
	const [chosen, choose] = usePlace("spine", "leaf");
	const [search, setSearch] = useSearchParams();
	const weave = useWeave(fabric.name, fabric.version).data;
	const asText = search.has("text");
	const flip = useCallback(
		(event?: KeyboardEvent) => {
			event?.preventDefault();
			setSearch(asText ? {} : { text: "1" });
		},
		[asText, setSearch],
	);
	useKey("t", flip);
	return (
		<>
			<aside
				aria-label="Brief"
				className="w-[276px] flex-none overflow-y-auto border-r border-hair pt-4.5 pr-5 pl-5.5"
			>
				<Prose />
			</aside>
			<main className="flex min-w-0 flex-1 flex-col pt-3.5 pr-4.5 pl-5">
				{asText ? (
					<BriefText fabric={fabric} line={Number(search.get("line") ?? 0)} onClose={() => flip()} />
				) : (
					<>
						<SumsBar />
						{weave && weave.leaves.length > 0 && (
							<WeavePicture weave={weave} chosen={chosen} onChoose={choose} />
						)}
						{weave?.leaves.length === 0 && (
							<p className="max-w-[52ch] pt-10">
								This fabric has {weave.spines.length} spines and no racks yet. Add the first racks in the
								brief, at the left; the cloth is woven as you do. Or press <kbd>T</kbd> and write the brief as
								text.
							</p>
						)}
					</>
				)}
			</main>
			<BriefMargin fabric={fabric} weave={weave} chosen={chosen} />
			<ScreenKeys
				keys={[
					["E", "next word of the brief"],
					["T", "the brief as text, and back"],
					["A", "every word, defaults too"],
					["← ↑ ↓ →", "move through the Weave"],
					["Esc", "choose nothing"],
				]}
			/>
		</>
	);
}
