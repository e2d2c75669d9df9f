// Reading preferences: language of numbers and dates, time zone, currency, single-letter keys.
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
        // Applied at once, because the next key may come before the server's response.
        letLettersAct(body.single_keys);
        await api.PUT("/api/account/preferences", { body });
        writeFor(body);
        return { data: true };
      }, done),
  };
}
