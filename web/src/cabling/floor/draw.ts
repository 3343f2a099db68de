/** Draws the floor: halls, aisles, trays, racks, and the ways of what is chosen on top. */
import { MONO, type Paint, SANS } from "../../ui/paint";
import type { Bundle, Floor, Spot, Tray } from "../queries";
import { meets, shown, type View } from "./geometry";

type Points = readonly { x: number; y: number }[];

export interface Marks {
	/** Racks that are chosen, or at the ends of what is. */
	racks: ReadonlySet<string>;
	hovered: string;
	/** What share of the cables that end in a rack is laid. */
	laid: ReadonlyMap<string, number>;
	route: Points;
	bundles: readonly Bundle[];
	/** How far the chosen row has been dragged, in mm. */
	dragged: { row: string; hall: string; x: number; y: number } | null;
	/** A tray that is being drawn. */
	drawing: Points;
}

export function draw(
	context: CanvasRenderingContext2D,
	floor: Floor,
	view: View,
	width: number,
	height: number,
	marks: Marks,
	paint: Paint,
): void {
	context.clearRect(0, 0, width, height);
	const pen = new Pen(context, view, paint);
	const window = shown(view, width, height);
	for (const room of floor.rooms)
		pen.outline(room.x, room.y, room.width, room.depth, paint.hair, floor.rooms.length > 1 ? room.name : "");
	for (const aisle of floor.aisles) pen.aisle(aisle);
	for (const tray of floor.trays) pen.tray(tray, floor.fill);
	for (const rack of floor.racks) {
		const moved = marks.dragged && rack.row === marks.dragged.row && rack.hall === marks.dragged.hall;
		const spot = moved && marks.dragged ? shifted(rack, marks.dragged) : rack;
		if (meets(spot, window))
			pen.rack(spot, marks.racks.has(rack.rack), marks.hovered === rack.rack, marks.laid.get(rack.rack) ?? 0);
	}
	for (const bundle of marks.bundles) pen.way(bundle.points, Math.min(7, 1.4 + bundle.cables / 6), 0.5);
	if (marks.route.length) pen.way(marks.route, 2.6, 1, true);
	if (marks.drawing.length) pen.way(marks.drawing, 5, 0.6, true);
}

const shifted = (rack: Spot, by: { x: number; y: number }): Spot => ({
	...rack,
	x: rack.x + by.x,
	y: rack.y + by.y,
});

class Pen {
	constructor(
		private readonly context: CanvasRenderingContext2D,
		private readonly view: View,
		private readonly paint: Paint,
	) {}

	private x = (mm: number) => this.view.x + mm * this.view.scale;
	private y = (mm: number) => this.view.y + mm * this.view.scale;

	private words(text: string, x: number, y: number, colour: string, font = `11px ${SANS}`) {
		this.context.font = font;
		this.context.fillStyle = colour;
		this.context.fillText(text, x, y);
	}

	outline(x: number, y: number, width: number, depth: number, colour: string, name: string) {
		const { context, view } = this;
		context.strokeStyle = colour;
		context.lineWidth = 1;
		context.strokeRect(
			Math.round(this.x(x)) + 0.5,
			Math.round(this.y(y)) + 0.5,
			Math.round(width * view.scale),
			Math.round(depth * view.scale),
		);
		if (name) this.words(name, this.x(x) + 6, this.y(y) + 14, this.paint.soft);
	}

	aisle(aisle: Floor["aisles"][number]) {
		const { context, view, paint } = this;
		const [x, y] = [this.x(aisle.x), this.y(aisle.y)];
		const [width, depth] = [aisle.width * view.scale, aisle.depth * view.scale];
		context.globalAlpha = 0.1;
		context.fillStyle = aisle.kind === "cold" ? paint.woad : aisle.kind === "hot" ? paint.weld : paint.madder;
		context.fillRect(x, y, width, depth);
		context.globalAlpha = 1;
		const flat = aisle.width >= aisle.depth;
		const across = (flat ? aisle.depth : aisle.width) / 1000;
		const kind = aisle.kind === "mixed" ? "fronts face backs" : `${aisle.kind} aisle`;
		if (flat && depth > 16 && width > 130)
			this.words(`${kind}, ${across.toFixed(1)} m`, x + 8, y + depth / 2 + 4, paint.soft);
	}

	tray(tray: Tray, most: number) {
		const { context, view, paint } = this;
		context.strokeStyle = tray.filled > most ? paint.madder : paint.empty;
		context.lineWidth = Math.max(3, tray.width * view.scale);
		context.lineJoin = "miter";
		context.beginPath();
		tray.corners.forEach(({ x, y }, at) => {
			if (at) context.lineTo(this.x(x), this.y(y));
			else context.moveTo(this.x(x), this.y(y));
		});
		context.stroke();
		if (view.scale > 0.02 || tray.filled > most) this.trayName(tray, most);
	}

	/** A tray's name behind its end; along it when it runs up and down. */
	private trayName(tray: Tray, most: number) {
		const { context, paint } = this;
		const [start, end] = [tray.corners.at(-2), tray.corners.at(-1)];
		if (!start || !end) return;
		const words = `${tray.name}${tray.height < 0 ? ", below" : ""}, ${Math.round(tray.filled)} % full`;
		const colour = tray.filled > most ? paint.madder : paint.soft;
		if (Math.abs(end.x - start.x) >= Math.abs(end.y - start.y)) {
			this.words(words, this.x(end.x) + 6, this.y(end.y) + 4, colour);
			return;
		}
		context.save();
		context.translate(this.x(end.x) - 10, this.y((start.y + end.y) / 2));
		context.rotate(-Math.PI / 2);
		context.textAlign = "center";
		this.words(words, 0, 0, colour);
		context.restore();
	}

	rack(rack: Spot, chosen: boolean, hovered: boolean, laid: number) {
		const { context, view, paint } = this;
		const x = Math.round(this.x(rack.x)) + 0.5;
		const y = Math.round(this.y(rack.y)) + 0.5;
		const width = Math.max(2, rack.width * view.scale - 1);
		const depth = Math.max(2, rack.depth * view.scale - 1);
		context.fillStyle = chosen ? paint.chosen : paint.raised;
		context.fillRect(x, y, width, depth);
		if (laid) {
			context.globalAlpha = 0.35;
			context.fillStyle = paint.moss;
			context.fillRect(x, y + depth * (1 - laid), width, depth * laid);
			context.globalAlpha = 1;
		}
		context.strokeStyle = rack.wrong ? paint.madder : chosen || hovered ? paint.indigo : paint.faint;
		context.globalAlpha = chosen || hovered || rack.wrong ? 1 : 0.55;
		context.lineWidth = chosen ? 2 : 1;
		context.setLineDash(rack.wrong ? [5, 3] : []);
		context.strokeRect(x, y, width, depth);
		context.setLineDash([]);
		context.globalAlpha = 1;
		this.front(rack, x, y, width, depth);
		const letter = (width - 8) / (rack.rack.length * 0.6);
		if (letter >= 8 && depth > 20)
			this.words(
				rack.rack,
				x + 5,
				rack.faces === "north" ? y + depth - 7 : y + 15,
				paint.ink,
				`${chosen ? "700 " : ""}${Math.min(12, letter)}px ${MONO}`,
			);
	}

	/** The side that the rack's front looks to, as a heavier edge. */
	private front(rack: Spot, x: number, y: number, width: number, depth: number) {
		const { context, paint } = this;
		if (Math.min(width, depth) < 8) return;
		context.fillStyle = paint.walnut;
		const thick = 2.5;
		if (rack.faces === "south") context.fillRect(x, y + depth - thick, width, thick);
		if (rack.faces === "north") context.fillRect(x, y, width, thick);
		if (rack.faces === "east") context.fillRect(x + width - thick, y, thick, depth);
		if (rack.faces === "west") context.fillRect(x, y, thick, depth);
	}

	way(points: Points, thick: number, alpha: number, knots = false) {
		if (points.length < 2) return;
		const { context, paint } = this;
		context.globalAlpha = alpha;
		context.strokeStyle = paint.indigo;
		context.lineWidth = thick;
		context.lineJoin = "round";
		context.beginPath();
		points.forEach(({ x, y }, at) => {
			if (at) context.lineTo(this.x(x), this.y(y));
			else context.moveTo(this.x(x), this.y(y));
		});
		context.stroke();
		context.globalAlpha = 1;
		if (!knots) return;
		context.fillStyle = paint.indigo;
		for (const point of [points[0], points.at(-1)])
			if (point) {
				context.beginPath();
				context.arc(this.x(point.x), this.y(point.y), 4, 0, 7);
				context.fill();
			}
	}
}
