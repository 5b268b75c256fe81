import { plainContext } from "../base/context";
import { decode } from "fast-png";
import { describe, expect, it } from "vitest";
import { laidOn, squareSheet } from "../../tests/laid";
import { cube, joined, moved, tubeMesh } from "../../tests/shapes";
import { findOperation } from "../operations";
import { runOperation } from "../route";
import { SHEET, run, assetOf } from "../../tests/sharing-run";

describe("templates", () => {
  const asset = () => {
    const mesh = laidOn(
      [joined(cube(), moved(tubeMesh(12, 4), 5, 0, 0))],
      squareSheet(256),
    )[0];
    const at = assetOf(
      [{ ...mesh, ids: new Uint16Array(mesh.faceStarts.length - 1).fill(1) }],
      256,
    );
    return { ...at, palette: [{ name: "tin", colour: "#336699" }] };
  };

  it("as PNG are transparent where no island lies, at any size", async () => {
    for (const size of [0, 128]) {
      const { files, report } = await run(asset(), "unwrap/template", { size });
      const png = decode(files![0].bytes);
      expect([png.width, png.height, png.channels]).toEqual([
        size || 256,
        size || 256,
        4,
      ]);
      expect(report).toMatchObject({ width: size || 256 });
      const alphas = [...png.data].filter((_, i) => i % 4 === 3);
      expect(alphas.some((a) => a === 0)).toBe(true);
      expect(alphas.some((a) => a > 200)).toBe(true);
    }
  });

  it("as SVG hold lines, fills by ID and names that can't break out of it", async () => {
    const at = asset();
    const named = { ...at, parts: [{ ...at.parts[0], name: "a<b" }] };
    for (const lines of ["island", "seam", "hard"]) {
      const { files } = await run(named, "unwrap/template", {
        format: "svg",
        lines,
        fillIds: true,
        names: true,
      });
      const svg = new TextDecoder().decode(files![0].bytes);
      expect(svg).toMatch(/^<svg [^>]*width="256"/);
      expect(svg).toContain('fill="#336699"');
      expect(svg).toContain("a&lt;b");
      expect(svg).not.toContain("a<b");
      expect(svg).toMatch(/<path d="M/);
    }
  });

  it("write names into PNGs too, and need UVs", async () => {
    const plain = await run(asset(), "unwrap/template", { wire: false });
    const named = await run(asset(), "unwrap/template", {
      wire: false,
      names: true,
      fillIds: true,
    });
    expect(named.files![0].bytes).not.toEqual(plain.files![0].bytes);
    await expect(run(assetOf([cube()]), "unwrap/template")).rejects.toThrow(
      /unwrap first/,
    );
  });
});

describe("painted pictures", () => {
  it("come in with their size and go out again", async () => {
    const { files } = await run(
      assetOf([laidOn([cube()], SHEET)[0]]),
      "unwrap/template",
      { size: 64 },
    );
    const context = {
      ...plainContext(),
      files: [{ name: "rust.png", bytes: files![0].bytes }],
    };
    const at = assetOf([cube()]);
    const done = await runOperation(
      findOperation("unwrap/paint-in"),
      at,
      {},
      context,
    );
    expect(done.asset.painted).toMatchObject({
      name: "rust.png",
      kind: "png",
      width: 64,
      height: 64,
    });
    expect(
      (await run(done.asset, "unwrap/paint-out")).asset.painted,
    ).toBeNull();
    await expect(run(at, "unwrap/paint-in")).rejects.toThrow(/no picture/);
    await expect(
      runOperation(
        findOperation("unwrap/paint-in"),
        at,
        {},
        {
          ...plainContext(),
          files: [{ name: "x.png", bytes: new Uint8Array(9) }],
        },
      ),
    ).rejects.toThrow();
  });
});
