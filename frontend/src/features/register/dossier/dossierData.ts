import type { Schemas } from '../../../api/client'

/** Everything about one document, as the server tells it. */
export type DossierData = Schemas['Dossier']
