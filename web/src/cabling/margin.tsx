/** The margin of the cabling plan: both fronts with the port marked, the label, and why the cable is there. */
import type { CableRow } from "../api/client";
import { useBecause, useCatalogue, useSwitches } from "../api/queries";
import { Chain } from "../ui/chain";
import { Face } from "../ui/face";
import { Facts, Margin, MarginHead } from "../ui/margin";
import { useOpenFabric } from "../ui/street";

interface Props {
	cable: CableRow | undefined;
	cables: CableRow[];
	onOpen: (label: string) => void;
}

export function CableMargin({ cable, cables, onOpen }: Props) {
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
						cables={cables}
						onOpen={onOpen}
					/>
					<End
						name={cable.b_switch}
						port={cable.b_port}
						place={`${cable.b_rack}, U${cable.b_unit}`}
						cables={cables}
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
	cables: CableRow[];
	onOpen: (label: string) => void;
}

function End({ name, port, place, cables, onOpen }: EndProps) {
	const fabric = useOpenFabric();
	const models = useCatalogue().data;
	const device = useSwitches(fabric.name, fabric.version).data?.find((one) => one.name === name);
	const model = models?.find((one) => `${one.maker} ${one.name}` === device?.model);
	const labels = new Map<string, string>();
	const used = new Map<string, string>();
	for (const cable of cables) {
		if (cable.a_switch === name) {
			used.set(cable.a_port, `${cable.b_switch} ${cable.b_port}, ${cable.label}`);
			labels.set(cable.a_port, cable.label);
		}
		if (cable.b_switch === name) {
			used.set(cable.b_port, `${cable.a_switch} ${cable.a_port}, ${cable.label}`);
			labels.set(cable.b_port, cable.label);
		}
	}
	return (
		<section className="mb-3">
			<div className="mb-1 flex items-baseline gap-2">
				<b className="mono font-semibold">
					{name} {port}
				</b>
				<span className="label-small ml-auto">{place}</span>
			</div>
			{model && (
				<Face model={model} used={used} marked={port} onPort={(one) => onOpen(labels.get(one) ?? "")} />
			)}
		</section>
	);
}
