const WORDS: Record<string, string> = {
  "name.frame": "number of the first image",
  house: "house choices",
  laid: "sound laid",
  channels: "channels of the track",
  captions: "captions beside the file",
  tracks: "sound tracks that go out",
  burn_in: "burn-in",
};

/** What a choice besides the ledger's rows is called. */
export const wordOf = (key: string) =>
  WORDS[key] ?? key.replace(/^either\./, "").replace(/^name\./, "name: ");
