/** What of the drift is put back by itself, as a sentence whose word is a control. */
import type { Fabric } from "../api/client";
import { type Back, useRule } from "./queries";

const WORDS: Record<Back, string> = {
	nothing: "nothing",
	harmless: "what takes nothing away and touches nobody",
	all: "every file that drifts",
};

export function RuleSentence({ fabric, may }: { fabric: Fabric; may: boolean }) {
	const { back, say } = useRule(fabric);
	if (!back) return null;
	return (
		<p className="mt-1 text-soft">
			By itself, Barrio puts back{" "}
			{may ? (
				<select
					aria-label="Put back by itself"
					className="field-sizing-content max-w-full border-b border-indigo-line bg-transparent font-[600] text-indigo"
					value={back}
					disabled={say.isPending}
					onChange={(event) => say.mutate(event.target.value as Back)}
				>
					{Object.entries(WORDS).map(([word, words]) => (
						<option key={word} value={word}>
							{words}
						</option>
					))}
				</select>
			) : (
				WORDS[back]
			)}
			.
		</p>
	);
}
