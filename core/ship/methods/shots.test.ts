import { decode } from "fast-png";
import { strFromU8, unzipSync } from "fflate";
import { describe, expect, it } from "vitest";
import { context } from "../../../tests/one-part";
import { laidOn, squareSheet } from "../../../tests/laid";
import { plainPicture, sentPictures } from "../../../tests/sent-pictures";
import { sphere } from "../../../tests/shapes";
import { createAsset, createPart } from "../../asset/asset";
import { findOperation } from "../../operations";
import { runOperation } from "../../route";
import { writePng } from "../../formats/png";
import { bytesOfDataUri } from "../../formats/data-uri";
import { givenPictures, shotsFor, TURN } from "./shots";

const asset = createAsset("Ball", [
  createPart("ball", 0, { game: laidOn([sphere(8, 12)], squareSheet(64))[0] }),
]);
const ship = (
  id: string,
  options: object,
  files?: ReturnType<typeof sentPictures>,
) => runOperation(findOperation(id), asset, options, { ...context, files });
const unpacked = (result: Awaited<ReturnType<typeof ship>>) =>
  unzipSync(result.files![0].bytes);
const greyOf = (png: Uint8Array) => decode(png).data[0];

describe("pictures of the view", () => {
  it("are the report's where they come with the call, and else it draws them", async () => {
    const shots = shotsFor("ship/archive", {})!;
    const pages = [];
    for (const files of [sentPictures(shots), undefined]) {
      const result = await ship("ship/archive", { obj: false }, files);
      const page = strFromU8(unpacked(result)["report.html"]);
      const pictures = [
        ...page.matchAll(/alt="([^"]+)" width="380".*?src="([^"]+)"/g),
      ];
      pages.push({
        said: result.report.pictures,
        names: pictures.map(([, name]) => name),
        greys: pictures.map(([, , uri]) => greyOf(bytesOfDataUri(uri)!)),
      });
    }
    const [given, drawn] = pages;
    expect(given.names).toEqual(shots.shots.map(({ name }) => name));
    expect(drawn.names).toEqual(given.names);
    expect(given.greys).toEqual([10, 11, 12, 13, 14, 15]);
    expect(drawn.greys).not.toEqual(given.greys);
    expect([given.said, drawn.said]).toEqual(["from the view", "drawn"]);
  });

  it("make a turntable, step by step, in one that moves as well", async () => {
    const turn = { ...TURN, frames: 5, size: 64 };
    const shots = shotsFor("ship/turntable", turn)!;
    const result = await ship("ship/turntable", turn, sentPictures(shots));
    const files = unpacked(result);
    expect(Object.keys(files)).toHaveLength(6);
    expect(greyOf(files["Ball_turn_003.png"])).toBe(13);
    expect(decode(files["Ball_turn.png"]).data[0]).toBe(10);
    expect(result.report.from).toBe("the view");
    expect((await ship("ship/turntable", turn)).report.from).toBe("drawn");
  });

  it("go round in even steps, looked down on as is asked for", () => {
    const { shots, steady } = shotsFor("ship/turntable", {
      frames: 4,
      above: 30,
    })!;
    expect(steady).toBe(true);
    for (const { back } of shots) {
      expect(Math.hypot(...back)).toBeCloseTo(1);
      expect(back[1]).toBeCloseTo(0.5);
    }
    expect(shots[1].back[0]).toBeCloseTo(Math.cos(Math.PI / 6));
  });

  it("are not taken for what takes none, nor for what is refused anyway", () => {
    expect(shotsFor("ship/archive", { page: false })).toBe(null);
    expect(shotsFor("bake/maps", {})).toBe(null);
    for (const turn of [{ frames: 1e9 }, { size: 5 }, { above: NaN }])
      expect(shotsFor("ship/turntable", turn)).toBe(null);
  });

  it.each([
    [
      "one is missing",
      (n: number) => (n === 2 ? null : plainPicture(64, 64, n)),
      '"002" is missing',
    ],
    [
      "one is of another size",
      (n: number) => plainPicture(64, n === 3 ? 32 : 64, n),
      "003.png is no PNG of 64 × 64 px",
    ],
    [
      "one is no picture",
      (n: number) => (n ? plainPicture(64, 64, n) : new Uint8Array(40)),
      "000.png: neither a PNG nor a JPEG",
    ],
    [
      "one is of another kind",
      (n: number) =>
        n === 1
          ? writePng({
              ...{ kind: "ao", width: 64, height: 64, channels: 1, depth: 8 },
              pixels: new Uint8Array(64 * 64),
            })
          : plainPicture(64, 64, n),
      "001.png is no PNG of 64 × 64 px like the others",
    ],
  ])("are refused where %s", (_, change, said) => {
    const shots = shotsFor("ship/turntable", { frames: 4, size: 64 })!;
    expect(() =>
      givenPictures(
        sentPictures(shots, (__, n) => change(n)),
        shots,
      ),
    ).toThrow(said);
  });
});
