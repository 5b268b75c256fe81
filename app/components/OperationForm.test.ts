// @vitest-environment happy-dom
import { beforeEach, describe, expect, it } from "vitest";
import { infoOf, shown, stage } from "../../tests/mounted";
import OperationForm from "./OperationForm.vue";

let stores: ReturnType<typeof stage>;
beforeEach(() => {
  stores = stage(["lid", "body"]);
  document.body.innerHTML = "";
});
function form(id: string, values?: Record<string, unknown>) {
  const page = shown(OperationForm, { operation: infoOf(id), values });
  const field = (name: string) => page.find(`#${id.replace("/", "-")}-${name}`);
  return {
    page,
    field,
    run: async () => {
      await page.trigger("submit");
      return page.emitted("run")?.at(-1)?.[0] as
        Record<string, unknown> | undefined;
    },
    labels: () => page.findAll("label").map((each) => each.text()),
  };
}

describe("the form of an operation", () => {
  it("asks for every option that does not come from the view, the rest folded away", async () => {
    const { page, labels } = form("reduce/to-budget");
    const info = infoOf("reduce/to-budget");
    const asked = info.fields.filter(({ from }) => !from);
    expect(labels()).toEqual(
      asked.filter(({ folded }) => !folded).map(({ label }) => label),
    );
    const more = page.find(".fold");
    expect(more.attributes("aria-expanded")).toBe("false");
    await more.trigger("click");
    expect(labels().sort()).toEqual(asked.map(({ label }) => label).sort());
    for (const { label } of asked) expect(page.text() + label).toContain(label);
  });

  it("runs with its values, with what was typed, and with what is chosen", async () => {
    const { field, run } = form("unwrap/unwrap");
    stores.view.selected = ["lid"];
    await field("stretch").setValue("1.2");
    await field("islands").setValue("12");
    const given = { stretch: 1.2, islands: 12, parts: ["lid"] };
    expect(await run()).toMatchObject(given);
    // An emptied field stands for what an empty one says.
    await field("islands").setValue("");
    expect(await run()).toMatchObject({ ...given, islands: 0 });
  });

  it("says at the field what is no value, keeps it, and does not run", async () => {
    const { page, field, run } = form("reduce/to-budget");
    await field("triangles").setValue("many");
    expect(await run()).toBeUndefined();
    expect(page.find("[role=alert]").text()).not.toBe("");
    expect((field("triangles").element as HTMLInputElement).value).toBe("many");
    expect(field("triangles").attributes("aria-invalid")).toBe("true");
    expect(document.activeElement).toBe(field("triangles").element);
  });

  it("tells where an empty number comes from", () => {
    const { field } = form("reduce/to-budget");
    const placeholder = field("triangles").attributes("placeholder")!;
    expect(placeholder.replace(/\D/g, "")).toBe(
      String(stores.workshop.asset!.document.brief.triangles),
    );
    expect(placeholder).toContain("from the brief");
  });

  it("says what it works on, and does not ask for it", async () => {
    const { page } = form("unwrap/unfold");
    expect(page.find(".scope").exists()).toBe(false);
    expect(
      shown(OperationForm, { operation: infoOf("unwrap/unwrap") }).text(),
    ).toContain("on all parts");
    stores.view.selected = ["body", "lid"];
    await page.vm.$nextTick();
    expect(page.find(".scope").text()).toBe("on body, lid");
    stores.view.hearFaces({ lid: "0-4" }, "game", {
      faces: 5,
      triangles: 5,
      area: 1,
      islands: 1,
      density: 0,
    });
    await page.vm.$nextTick();
    expect(page.find(".scope").text()).toContain("on 5 chosen faces");
  });

  it("stays still while the asset is locked by a job", async () => {
    const { run, page } = form("reduce/to-budget");
    stores.workshop.pending.push({ id: 1, asset: 1, key: "" });
    await page.vm.$nextTick();
    expect(await run()).toBeUndefined();
    expect(page.find("button.go").attributes("disabled")).toBeDefined();
  });
});
