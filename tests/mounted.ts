import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import PrimeVue from "primevue/config";
import type { Component } from "vue";
import { createAsset } from "../core/asset/asset";
import { fieldsOf } from "../core/asset/operation";
import { findOperation, OPERATIONS } from "../core/operations";
import type { AssetState, OperationInfo } from "../app/shared/types";
import { useView } from "../app/stores/view";
import { useWorkshop } from "../app/stores/workshop";

/** An operation as the server tells the page of it. */
export function infoOf(id: string): OperationInfo {
  const operation = findOperation(id);
  const { title, about, stage, runs } = operation;
  return {
    id,
    title,
    about,
    stage,
    runs,
    fields: fieldsOf(operation),
  } as OperationInfo;
}

/** Stores with an asset on the table that has parts of these names. */
export function stage(parts: readonly string[] = []) {
  setActivePinia(createPinia());
  const view = useView();
  const workshop = useWorkshop();
  const { brief } = createAsset("Net weight", []);
  workshop.operations = OPERATIONS.map(({ id }) => infoOf(id));
  workshop.asset = {
    id: 1,
    revision: 1,
    jobs: [],
    standing: [],
    document: {
      name: "Net weight",
      brief,
      parts: parts.map((name) => ({ name, hulls: [], levels: [] })),
      results: {},
      reports: {},
    },
  } as unknown as AssetState;
  return { view, workshop };
}

/** A component in the page, with what the app gives to all. */
export const shown = (
  component: Component,
  props: Record<string, unknown> = {},
) =>
  mount(component, {
    attachTo: document.body,
    props,
    global: { plugins: [[PrimeVue, {}]] },
  });
