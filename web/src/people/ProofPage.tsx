// Confirm a mail address at the link that was mailed to it.
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, ProblemError, values } from "../api/client";
import { MainButton } from "../shared/parts";
import { Alone } from "./Alone";

export function ProofPage() {
  const { token = "" } = useParams({ strict: false });
  const [said, setSaid] = useState("");
  async function prove() {
    try {
      const { email } = values(await api.POST("/api/account/email/proofs/{token}", { params: { path: { token } } }));
      setSaid(`${email} is confirmed as your mail address.`);
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      setSaid(`${error.problem.detail} ${error.problem.remedy}`);
    }
  }
  return (
    <Alone title="Your mail address" submit={prove}>
      {said ? (
        <p role="status">{said}</p>
      ) : (
        <>
          <p>Someone entered this email address. If it was you, confirm it here.</p>
          <MainButton type="submit" className="w-full">
            Confirm
          </MainButton>
        </>
      )}
      <Link to="/" className="underline">
        To your sites
      </Link>
    </Alone>
  );
}
