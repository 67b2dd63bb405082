/** What systems and programs lay into folders by themselves; whoever drops a folder means nothing by it. */

/** Common practice, no published source. */
const NAMES = /^(thumbs\.db|ehthumbs\.db|desktop\.ini|\.ds_store|\.localized|\._.*|.*\.(lnk|url|desktop|webloc))$/i

export const isLeftBySystems = (name: string) => NAMES.test(name)
