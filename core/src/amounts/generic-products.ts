import { bareProduct, type Product } from '../trial/index.ts'

/**
 * Products as they are sold under many names: what such a thing usually is. None is anybody's, and none states
 * a label: maxima, intervals and what to wear stand on the bag and are typed from it.
 */
export const genericProducts: readonly Product[] = [
  { ...bareProduct('Ammonium nitrate'), form: 'granules', analysis: { N: 34 }, harm: 'Feeds fire and scorches wet leaves: away from fuel, on dry leaves only.' }, // prettier-ignore
  { ...bareProduct('Ammonium nitrate with lime'), form: 'granules', analysis: { N: 27, Ca: 8 } },
  { ...bareProduct('Urea'), form: 'granules', analysis: { N: 46 }, harm: 'Lost to the air from warm, dry or limed ground: before rain, or worked in. Never against seed.' }, // prettier-ignore
  { ...bareProduct('Ammonium sulphate'), form: 'granules', analysis: { N: 21, S: 24 }, harm: 'Makes soil sour.' },
  { ...bareProduct('Calcium nitrate'), form: 'soluble salt', analysis: { N: 15.5, Ca: 19 } },
  { ...bareProduct('Urea and ammonium nitrate solution'), form: 'solution', analysis: { N: 28 }, density: 1.28, harm: 'Scorches leaves: in large drops, not in sun.' }, // prettier-ignore
  { ...bareProduct('Triple superphosphate'), form: 'granules', analysis: { P: 20, Ca: 14 } },
  { ...bareProduct('Diammonium phosphate'), form: 'granules', analysis: { N: 18, P: 20 }, harm: 'Gives off ammonia: away from the seed.' },
  { ...bareProduct('Potassium chloride'), form: 'granules', analysis: { K: 50, Cl: 46 }, harm: 'Salt and chloride: not near seed, nor on crops that chloride harms.' }, // prettier-ignore
  { ...bareProduct('Potassium sulphate'), form: 'granules', analysis: { K: 41.5, S: 18 } },
  { ...bareProduct('Potassium nitrate'), form: 'soluble salt', analysis: { N: 13, K: 38 } },
  { ...bareProduct('Magnesium sulphate'), form: 'soluble salt', analysis: { Mg: 9.8, S: 13 } },
  { ...bareProduct('Gypsum'), form: 'powder', analysis: { Ca: 22, S: 17 } },
  { ...bareProduct('Ground limestone'), form: 'powder', analysis: { Ca: 38 }, seasons: 4 },
  { ...bareProduct('Zinc sulphate'), form: 'soluble salt', analysis: { Zn: 35, S: 17 }, harm: 'Little lies between enough and too much.' },
  { ...bareProduct('Sodium borate'), form: 'soluble salt', analysis: { B: 17.5 }, harm: 'Boron poisons crops at little more than they need: never twice on one plot, and mind the next crop.' }, // prettier-ignore
  { ...bareProduct('Iron chelate'), form: 'soluble salt', analysis: { Fe: 6 } },
  { ...bareProduct('Composted manure'), form: 'powder', analysis: { N: 0.7, P: 0.25, K: 0.6, Ca: 1, Mg: 0.2 }, seasons: 3, protection: 'gloves; wash hands' }, // prettier-ignore
  { ...bareProduct('Growth regulator, 4 g/L'), form: 'suspension', active: { name: 'growth regulator', content: 4, measure: 'g/L' }, density: 1.02, hygiene: 'growth regulator', harmAbove: 60, harm: 'Stunts for the whole season when overdone, and what is left in a can treats the next crop.' }, // prettier-ignore
  { ...bareProduct('Root-nodule bacteria in peat'), form: 'living', live: { perGram: 1e9, keepBelow: 10, useBy: null, openHours: 24 }, hygiene: 'inoculant' }, // prettier-ignore
  { ...bareProduct('Root fungus on granules'), form: 'living', live: { perGram: 100, keepBelow: 20, useBy: null, openHours: 72 }, hygiene: 'inoculant' }, // prettier-ignore
  { ...bareProduct('Wetter'), form: 'wetter', density: 1 },
  { ...bareProduct('Herbicide, 500 g/L'), form: 'emulsion', active: { name: 'herbicide', content: 500, measure: 'g/L' }, density: 1.05, hygiene: 'herbicide' }, // prettier-ignore
  { ...bareProduct('Browsing repellent'), form: 'suspension', density: 1.1, hygiene: 'repellent' },
  { ...bareProduct('Water'), form: 'water', density: 1, reentryHours: 0, preHarvestDays: 0 },
  { ...bareProduct('Seed'), form: 'seed', seed: { kernelWeight: null, germination: null } },
]
