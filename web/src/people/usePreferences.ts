// How the reader likes to read: language of numbers and days, time zone, currency, single-letter keys.
import { useQuery } from "@tanstack/react-query";
import { sessionQuery } from "../api/ask";
import { api, type Schemas } from "../api/client";
import { writeFor } from "../shared/format";
import { letLettersAct } from "../shared/keys";
import { useAct } from "../shared/useAct";

type Preferences = Schemas["PreferencesShown"];
const USUAL: Preferences = { language: "", time_zone: "", currency: "", single_keys: true };

export function usePreferences() {
  const stored = useQuery(sessionQuery).data?.preferences ?? USUAL;
  const act = useAct();
  return {
    stored,
    change: (part: Partial<Preferences>, done: string) =>
      act(async () => {
        const body = { ...stored, ...part };
        // At once, for the next key may be pressed before the server has answered.
        letLettersAct(body.single_keys);
        await api.PUT("/api/account/preferences", { body });
        writeFor(body);
        return { data: true };
      }, done),
  };
}
