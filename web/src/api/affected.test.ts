import { describe, expect, it } from "vitest";
import { affected } from "./affected";

const get = (path: string) => ({ queryKey: ["get", path, {}] });
const staleAfter = (path: string) => affected(`http://127.0.0.1:8000${path}`);
const FINDING = { queryKey: ["finding", "low-ctr", "shop", {}] };

describe("what is fetched again after a change", () => {
  it("is nothing but its own part where nothing else follows from it", () => {
    const stale = staleAfter("/api/sites/shop/views/3");
    expect(stale(get("/api/sites/{slug}/views"))).toBe(true);
    expect(stale(FINDING)).toBe(false);
    expect(stale(get("/api/sites/{slug}/pages/{page_id}"))).toBe(false);
    expect(stale(get("/api/sites"))).toBe(false);
  });

  it("is what follows from it, and the record of changes", () => {
    const stale = staleAfter("/api/sites/shop/connections/search");
    for (const part of ["connections", "sources", "jobs", "help", "audit"])
      expect(stale(get(`/api/sites/{slug}/${part}`))).toBe(true);
    expect(stale(FINDING)).toBe(false);
  });

  it("is every answer about sites after a decision, but not the account", () => {
    const stale = staleAfter("/api/sites/shop/decisions");
    expect(stale(FINDING)).toBe(true);
    expect(stale(get("/api/sites"))).toBe(true);
    expect(stale({ queryKey: ["portfolio"] })).toBe(true);
    expect(stale(get("/api/session"))).toBe(false);
  });

  it("is only the account after a change of the account", () => {
    const stale = staleAfter("/api/account/preferences");
    expect(stale(get("/api/account"))).toBe(true);
    expect(stale(get("/api/session"))).toBe(true);
    expect(stale(FINDING)).toBe(false);
  });

  it("is everything about the site after a change of the site itself", () => {
    expect(staleAfter("/api/sites/shop")(FINDING)).toBe(true);
    expect(staleAfter("/api/sites")(get("/api/sites"))).toBe(true);
  });
});
