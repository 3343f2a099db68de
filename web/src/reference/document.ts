/** An OpenAPI document as a list of calls, with types in a few words. */
export interface Schema {
	$ref?: string;
	type?: string;
	title?: string;
	enum?: unknown[];
	const?: unknown;
	items?: Schema;
	anyOf?: Schema[];
	prefixItems?: Schema[];
	properties?: Record<string, Schema>;
	required?: string[];
	additionalProperties?: Schema | boolean;
	default?: unknown;
}

interface Said {
	operationId?: string;
	summary?: string;
	description?: string;
	tags?: string[];
	"x-right"?: string;
	parameters?: Parameter[];
	requestBody?: { content?: Record<string, { schema?: Schema }> };
	responses?: Record<string, { content?: Record<string, { schema?: Schema }> }>;
}

export interface Parameter {
	name: string;
	in: string;
	required?: boolean;
	schema: Schema;
}

export interface Document {
	paths: Record<string, Record<string, Said>>;
	components?: { schemas?: Record<string, Schema> };
}

export interface Operation {
	id: string;
	method: string;
	path: string;
	tag: string;
	words: string;
	right: string;
	parameters: Parameter[];
	body?: Schema;
	status: string;
	answer?: Schema;
}

/** Every call of a document, those about one thing together. */
export function operations({ paths }: Document): Operation[] {
	const found = Object.entries(paths).flatMap(([path, methods]) =>
		Object.entries(methods).map(([method, one]): Operation => {
			const [status, answer] = Object.entries(one.responses ?? {}).find(([code]) => code.startsWith("2")) ?? [
				"",
				undefined,
			];
			return {
				id: one.operationId ?? `${method} ${path}`,
				method: method.toUpperCase(),
				path,
				tag: one.tags?.[0] ?? "barrio",
				words: one.description ?? one.summary ?? "",
				right: one["x-right"] ?? "",
				parameters: one.parameters ?? [],
				body: one.requestBody?.content?.["application/json"]?.schema,
				status,
				answer: answer?.content?.["application/json"]?.schema,
			};
		}),
	);
	return found.sort((one, other) => one.tag.localeCompare(other.tag));
}

const name = (ref: string) => ref.split("/").at(-1) ?? "";

/** A type in words: fields, where it is a thing with some, so many layers deep. */
export function typed(document: Document, schema: Schema, deep = 0, indent = ""): string {
	if (schema.$ref) {
		const found = document.components?.schemas?.[name(schema.$ref)];
		return found && deep > 0 ? typed(document, found, deep, indent) : name(schema.$ref);
	}
	if (schema.anyOf) return schema.anyOf.map((one) => typed(document, one, deep, indent)).join(" or ");
	if (schema.const !== undefined) return JSON.stringify(schema.const);
	if (schema.enum) return schema.enum.map((one) => JSON.stringify(one)).join(" | ");
	if (schema.type === "array")
		return schema.items ? `list of ${typed(document, schema.items, deep, indent)}` : "list";
	if (schema.type === "null") return "nothing";
	if (schema.properties && deep > 0) {
		const rows = Object.entries(schema.properties).map(([key, one]) => {
			const may = schema.required?.includes(key) ? "" : "?";
			return `${indent}  ${key}${may}: ${typed(document, one, deep - 1, `${indent}  `)}`;
		});
		return `{\n${rows.join("\n")}\n${indent}}`;
	}
	if (schema.type === "object" && typeof schema.additionalProperties === "object")
		return `by name: ${typed(document, schema.additionalProperties, deep, indent)}`;
	return schema.title && schema.type === "object" ? schema.title : (schema.type ?? "anything");
}

/** A value of a type, as short as it can be, to begin from. */
export function sample(document: Document, schema: Schema, deep = 0): unknown {
	if (schema.$ref) {
		const found = document.components?.schemas?.[name(schema.$ref)];
		return found && deep < 4 ? sample(document, found, deep + 1) : {};
	}
	if (schema.default !== undefined) return schema.default;
	if (schema.const !== undefined) return schema.const;
	if (schema.enum) return schema.enum[0];
	if (schema.anyOf) return sample(document, schema.anyOf[0] ?? {}, deep);
	if (schema.prefixItems) return schema.prefixItems.map((one) => sample(document, one, deep + 1));
	switch (schema.type) {
		case "array":
			return schema.items && deep < 3 ? [sample(document, schema.items, deep + 1)] : [];
		case "object":
			return Object.fromEntries(
				(schema.required ?? []).map((key) => [
					key,
					sample(document, schema.properties?.[key] ?? {}, deep + 1),
				]),
			);
		case "integer":
		case "number":
			return 1;
		case "boolean":
			return true;
		case "string":
			return "…";
		default:
			return null;
	}
}
