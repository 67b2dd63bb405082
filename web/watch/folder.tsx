/** The watch page in a folder of its own. */
import { showPacked } from './packed.tsx'

void showPacked()
