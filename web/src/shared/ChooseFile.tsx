// A button that chooses a file, and the progress of its upload.
import { useRef } from "react";
import { csrfToken, problemOf } from "../api/client";
import { Button } from "./parts";

/** Upload a file with progress, which fetch does not report; XMLHttpRequest does. */
export function send<T>(path: string, file: File, progress: (share: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", path);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => progress(event.loaded / event.total);
    const answer = () => new Response(request.responseText || null, { status: request.status || 502 });
    request.onload = async () =>
      request.status < 300 ? resolve(await answer().json()) : reject(await problemOf(answer()));
    request.onerror = async () => reject(await problemOf(answer()));
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}

export function ChooseFile(props: { label: string; accept?: string; take: (file: File) => void; sent: number | null }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        aria-label={props.label}
        accept={props.accept}
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = "";
          if (file) props.take(file);
        }}
      />
      {props.sent === null ? (
        <Button onClick={() => input.current?.click()}>Choose a file</Button>
      ) : (
        <span role="status">{props.sent < 1 ? `Sending, ${Math.round(props.sent * 100)} %` : "Looking at it"}</span>
      )}
    </>
  );
}
