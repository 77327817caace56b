'use client';

/** Where not even the frame of the pages could be drawn: nothing of it can be relied on here. */
export default function Failed({ error }: { error: Error }) {
  return (
    <html lang="en">
      <body style={{ fontFamily: 'system-ui, sans-serif', padding: 48, maxWidth: 560, lineHeight: 1.5 }}>
        <h1 style={{ fontSize: 21 }}>Wellmorph could not be drawn</h1>
        <p>
          Nothing you changed is lost: what was not sent yet is kept in this browser. <a href="/">Try again</a>
        </p>
        <p style={{ fontSize: 12 }}>{error.message}</p>
      </body>
    </html>
  );
}
