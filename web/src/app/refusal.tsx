/** Why something cannot be, fault by fault. */
import type { Failure } from "../api/client";

export function Refusal({ failure }: { failure: Failure }) {
	const faults = failure.problem.faults ?? [];
	return (
		<div role="alert" className="mb-2.5 border-l-4 border-madder pl-3 text-madder">
			<ul>
				{faults.slice(0, 8).map((fault) => (
					<li key={fault.message}>
						{fault.line ? `Line ${fault.line}: ` : ""}
						{fault.message}
					</li>
				))}
				{!faults.length && <li>{failure.message}</li>}
			</ul>
		</div>
	);
}
