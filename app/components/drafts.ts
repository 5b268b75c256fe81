import { computed, watch } from "vue";
import type { Field } from "../../core/asset/operation";
import type { OperationInfo } from "../shared/types";
import type { Draft } from "../stores/view";
import { useView } from "../stores/view";

const same = (a: unknown, b: unknown) =>
  JSON.stringify(a) === JSON.stringify(b);

/** The options that a form would be run with. @param typed over what is known, by field */
export const draftedOptions = (
  fields: readonly Field[],
  values: Readonly<Record<string, unknown>> | undefined,
  typed: Readonly<Record<string, Draft>>,
): Record<string, unknown> =>
  Object.fromEntries(
    fields.map(({ name, default: otherwise }) => {
      const draft = typed[name];
      return [
        name,
        draft && "value" in draft ? draft.value : (values?.[name] ?? otherwise),
      ];
    }),
  );

/**
 * What the form of an operation says: the values that are known of it, and over them what somebody has typed, which
 * stays until it is used or taken back, whatever becomes of the asset meanwhile.
 */
export function useDrafts(
  operation: () => OperationInfo,
  values: () => Record<string, unknown> | undefined,
) {
  const view = useView();
  const base = (field: Field) => values()?.[field.name] ?? field.default;
  const drafts = computed(
    (): Record<string, Draft> => view.typed[operation().id] ?? {},
  );
  /** The options as they would be run. */
  const options = computed(() =>
    draftedOptions(operation().fields, values(), drafts.value),
  );
  /** Takes a value, or with none a text that is no value. */
  function type(field: Field, value: unknown, text?: string) {
    if (value !== undefined && same(value, base(field))) takeBack(field);
    else
      view.type(operation().id, field.name, {
        ...(value !== undefined && { value }),
        ...(text !== undefined && { text }),
        base: drafts.value[field.name]?.base ?? base(field),
      });
  }
  const takeBack = (field: Field) =>
    view.type(operation().id, field.name, null);
  /** The value that was changed elsewhere since somebody began to type, if it was. */
  function changed(field: Field): { to: unknown } | null {
    const draft = drafts.value[field.name];
    const now = base(field);
    return draft && !same(draft.base, now) ? { to: now } : null;
  }
  // What was typed has become the value: it was used.
  watch(
    () => operation().fields.map(base),
    (now) =>
      operation().fields.forEach((field, i) => {
        const draft = drafts.value[field.name];
        if (draft && "value" in draft && same(draft.value, now[i]))
          takeBack(field);
      }),
    { immediate: true },
  );
  return { options, drafts, base, type, takeBack, changed };
}
