/** One rack from both sides, and what stands in it. */
import { RackElevation } from "./elevation";
import type { Elevation } from "./queries";

export function RackView({ rack }: { rack: Elevation }) {
	return (
		<section aria-label={`Rack ${rack.rack}`} className="flex min-h-0 gap-6 overflow-auto pb-3">
			<RackElevation rack={rack} tall={268} side="front" />
			<RackElevation rack={rack} tall={268} side="rear" />
			<table className="h-fit text-[12.5px]">
				<thead>
					<tr className="text-left text-soft">
						<th className="pr-6 font-normal">unit</th>
						<th className="pr-6 font-normal">what stands there</th>
						<th className="pr-6 font-normal">ports at the</th>
						<th className="pr-6 font-normal">air</th>
						<th className="pr-6 text-right font-normal">power</th>
					</tr>
				</thead>
				<tbody>
					{rack.things.map((thing) => (
						<tr key={thing.name} className="border-t border-hair/60">
							<td className="mono py-0.5 pr-6">U{thing.unit}</td>
							<td className="pr-6">
								<b className="mono font-semibold">{thing.name}</b>{" "}
								<span className="text-soft">{thing.model}</span>
							</td>
							<td className="pr-6">{thing.faces}</td>
							<td className="pr-6">{thing.airflow}</td>
							<td className="text-right">{thing.watts.toLocaleString("en")} W</td>
						</tr>
					))}
				</tbody>
			</table>
		</section>
	);
}
