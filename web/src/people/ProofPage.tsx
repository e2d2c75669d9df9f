// Confirm a mail address at the link that was mailed to it.
import { Link, useParams } from "@tanstack/react-router";
import { useState } from "react";
import { api, ProblemError, values } from "../api/client";
import { MainButton } from "../shared/parts";
import { Alone } from "./Alone";

export function ProofPage() {
  const { token = "" } = useParams({ strict: false });
  const [message, setMessage] = useState("");
  async function prove() {
    try {
      const { email } = values(await api.POST("/api/account/email/proofs/{token}", { params: { path: { token } } }));
      setMessage(`${email} is confirmed as your mail address.`);
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error;
      setMessage(`${error.problem.detail} ${error.problem.remedy}`);
    }
  }
  return (
    <Alone title="Your mail address" submit={prove}>
      {message ? (
        <p role="status">{message}</p>
      ) : (
        <>
          <p>Someone entered this email address. If it was you, confirm it here.</p>
          <MainButton type="submit" className="w-full">
            Confirm
          </MainButton>
        </>
      )}
      <Link to="/" className="link">
        To your sites
      </Link>
    </Alone>
  );
}
