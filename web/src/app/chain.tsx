/** A chain of reasons, nearest first. A reason that stands in the brief or in the ledger leads there. */
import { Link, useParams } from "react-router";
import type { Step } from "../api/client";

export function Chain({ steps }: { steps: Step[] }) {
	return (
		<ol className="chain">
			{steps.map((step, index) => (
				// biome-ignore lint/suspicious/noArrayIndexKey: a chain has an order and no ids
				<li key={index}>
					{step.title}
					<Where step={step} />
				</li>
			))}
		</ol>
	);
}

function Where({ step }: { step: Step }) {
	const { fabric } = useParams();
	const { line, pool, number } = step.refs ?? {};
	const className = "block text-[11.8px] text-soft";
	if (step.kind === "brief" && line)
		return (
			<Link
				className={`${className} -mb-1.5 min-h-6 hover:text-indigo`}
				to={`/f/${fabric}/brief?text=1&line=${line}`}
			>
				{step.detail}
			</Link>
		);
	if (step.kind === "ledger" && pool)
		return (
			<Link
				className={`${className} -mb-1.5 min-h-6 hover:text-indigo`}
				to={`/f/${fabric}/ledger?pool=${pool}&number=${encodeURIComponent(String(number))}`}
			>
				{step.detail}
			</Link>
		);
	return <span className={className}>{step.detail}</span>;
}
