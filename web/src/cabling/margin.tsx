/** The margin of the cabling plan: both fronts with the port marked, the label, and why the cable is there. */
import type { CableRow } from "../api/client";
import { useBecause } from "../api/queries";
import { Chain } from "../app/chain";
import { useOpenFabric } from "../app/open";
import { FaceView } from "../brief/margin/face";
import { Facts, Margin, MarginHead } from "../ui/margin";

interface Props {
	cable: CableRow | undefined;
	onOpen: (label: string) => void;
}

export function CableMargin({ cable, onOpen }: Props) {
	const fabric = useOpenFabric();
	const { data } = useBecause(fabric.name, fabric.version, cable ? { cable: cable.label } : null);
	return (
		<Margin width={316}>
			{cable ? (
				<>
					<MarginHead kind={`Cable, ${cable.kind}, ${cable.speed}G`} title={cable.label} mono />
					<End
						name={cable.a_switch}
						port={cable.a_port}
						place={`${cable.a_rack}, U${cable.a_unit}`}
						onOpen={onOpen}
					/>
					<End
						name={cable.b_switch}
						port={cable.b_port}
						place={`${cable.b_rack}, U${cable.b_unit}`}
						onOpen={onOpen}
					/>
					<Facts
						rows={[
							[
								"Label",
								<span
									key="label"
									className="mono"
								>{`${cable.label} | ${cable.a_rack}.U${cable.a_unit} ${cable.a_switch}:${cable.a_port} | ${cable.b_rack}.U${cable.b_unit} ${cable.b_switch}:${cable.b_port}`}</span>,
							],
						]}
					/>
					<div className="label-small mb-1.5">Because</div>
					{data && <Chain steps={data.steps} />}
				</>
			) : (
				<>
					<MarginHead kind="Because" title="Choose a cable" />
					<p className="text-soft">
						It shows which hole it goes into at both ends, what is printed on its label, and why it is there.
					</p>
				</>
			)}
		</Margin>
	);
}

interface EndProps {
	name: string;
	port: string;
	place: string;
	onOpen: (label: string) => void;
}

function End({ name, port, place, onOpen }: EndProps) {
	const fabric = useOpenFabric();
	return (
		<section className="mb-3">
			<div className="mb-1 flex items-baseline gap-2">
				<b className="mono font-semibold">
					{name} {port}
				</b>
				<span className="label-small ml-auto">{place}</span>
			</div>
			{place && <FaceView fabric={fabric} name={name} marked={port} onCable={onOpen} />}
		</section>
	);
}
