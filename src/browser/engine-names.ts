/** The engines that can be driven on a machine, by the names everything knows them by. */
export const engineNames = ['chromium', 'firefox', 'webkit'] as const;
export type EngineName = (typeof engineNames)[number];

/** What to run to have an engine, said wherever it is missing. */
export const howToInstall: Record<EngineName, string> = {
  chromium: 'apt-get install chromium chromium-driver',
  firefox: 'apt-get install firefox-esr',
  webkit: 'apt-get install webkit2gtk-driver xvfb',
};
