/** Hands a text, or what is in a file, to the browser to keep. */
export function download(text: string | Blob, name: string, type: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
