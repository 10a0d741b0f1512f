import { analysed, requestOf } from './test/plan-case.ts'
const t=performance.now()
for (const [n,o] of [['alpha-lattice-oat',{}],['row-column-oat',{}],['augmented-oat',{}],['augmented-oat',{random:['block','entry']}],['augmented-oat',{random:['block','entry'],checks:{entry:['check1','check2','check3','check4']}}],
 ['multi-site-barley',{random:['site','block']}],['multi-site-barley',{random:['site','block'],df:'kenward-roger'}],['multi-site-barley',{random:['site','block'],errorBy:'site',df:'satterthwaite'}],['multi-site-barley',{errorBy:'site'}],
 ['repeated-measures-missing-onion',{dates:{occasion:'date',subject:'plot'}}],['repeated-measures-missing-onion',{}],['m-spatial',{ground:'rows and columns with nugget'}],['m-spatial',{}]] as any) {
  const t=performance.now()
  try { const a=analysed(n,{options:{...o,method:'lsd'}})
  console.log('==',n,JSON.stringify(o),a.kind,(performance.now()-t).toFixed(0)+'ms',a.notTested?.text??'')
  console.log(a.model.words)
  console.log(a.tests.map(x=>`${x.term} F ${x.f.toFixed(4)} ${x.df} ${x.errorDf.toFixed(4)}`).join('; '))
  if(a.mixed) console.log(a.mixed.df,a.mixed.minusTwoLogLikelihood,a.mixed.aic,JSON.stringify(a.mixed.parameters.slice(0,6)),JSON.stringify(a.mixed.mean),JSON.stringify(a.mixed.models.map(m=>[m.key,m.aic])))
  console.log(a.sentences.map(s=>s.text).join('\n'), a.cautions.map(c=>c.kind+': '+c.text).join('\n'))
  } catch(e) { console.log('==',n,JSON.stringify(o),'THROWS',(e as Error).message, (e as Error).stack?.split('\n')[1]) }
}
