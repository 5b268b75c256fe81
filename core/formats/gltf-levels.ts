import type { Node, WriterContext } from "@gltf-transform/core";
import {
  Extension,
  ExtensionProperty,
  PropertyType,
  RefList,
} from "@gltf-transform/core";

const NAME = "MSFT_lod";

interface LevelsShape {
  name: string;
  extras: Record<string, unknown>;
  levels: RefList<Node>;
}

/** The levels of detail of a node, nearest first. */
export class NodeLevels extends ExtensionProperty<LevelsShape> {
  static override EXTENSION_NAME = NAME;
  declare extensionName: string;
  declare propertyType: string;
  declare parentTypes: string[];

  protected init(): void {
    this.extensionName = NAME;
    this.propertyType = "Levels";
    this.parentTypes = [PropertyType.NODE];
  }

  protected override getDefaults() {
    return Object.assign(super.getDefaults(), {
      levels: new RefList<Node>(),
    });
  }

  addLevel(node: Node): this {
    return this.addRef("levels", node);
  }

  listLevels(): Node[] {
    return this.listRefs("levels");
  }
}

/** Levels of detail as nodes that stand in for another one, by MSFT_lod (a vendor extension of glTF 2.0). */
export class LevelsExtension extends Extension {
  static override EXTENSION_NAME = NAME;
  override readonly extensionName = NAME;

  create(): NodeLevels {
    return new NodeLevels(this.document.getGraph());
  }

  /** Reading goes by the checked JSON, see gltf-json.ts. */
  read(): this {
    return this;
  }

  override write(context: WriterContext): this {
    const { nodes = [] } = context.jsonDoc.json;
    for (const node of this.document.getRoot().listNodes()) {
      const levels = node.getExtension<NodeLevels>(NAME);
      if (!levels) continue;
      const written = nodes[context.nodeIndexMap.get(node)!];
      written.extensions = {
        ...written.extensions,
        [NAME]: {
          ids: levels
            .listLevels()
            .map((each) => context.nodeIndexMap.get(each)!),
        },
      };
    }
    return this;
  }
}

/**
 * For each level the least share of the screen that a thing must cover to be drawn with it: half of where its
 * triangles would be as dense on the screen as those of the first level on a screen it fills. The last is drawn
 * however small it is.
 * @param triangles of each level, falling
 */
export const screenCoverage = (triangles: readonly number[]): number[] =>
  triangles.map((_, l) =>
    l + 1 < triangles.length
      ? Number(((0.5 * triangles[l + 1]) / triangles[0]).toPrecision(4))
      : 0,
  );
