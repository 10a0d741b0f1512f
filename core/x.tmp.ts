import { readFileSync } from 'node:fs'
import Papa from 'papaparse'
import { crossed, dateModels, groundModels, byGroup, designMatrix, fitStructured, kenwardRoger, satterthwaite, reml, type Classification } from './src/statistics/index.ts'
const read = (name: string) => { const rows = Papa.parse<Record<string,string>>(readFileSync(`core/fixtures/reference/${name}/data.csv`,'utf8').trim(),{header:true}).data; return rows }
const cls = (rows: any[], c: string): Classification => { const l=[...new Set(rows.map(r=>r[c]))].sort((a,b)=>Number(a)-Number(b)||(a<b?-1:1)); return {name:c,levels:l,codes:Int32Array.from(rows,r=>l.indexOf(r[c]))} }
{
  const rows = read('repeated-measures-missing-onion').filter(r=>r.loss!=='')
  const [block,unit,treatment,date]=['block','unit','treatment','date'].map(c=>cls(rows,c))
  const y=Float64Array.from(rows,r=>Number(r.loss))
  for (const coding of ['reference','sum'] as const) {
  const d=designMatrix([block!,treatment!,date!],[['block'],['treatment'],['date'],['treatment','date']],y.length,coding)
  for (const {key,model} of dateModels) {
    const t=performance.now()
    const fit=fitStructured({y,fixed:d.columns,random:[],errors:model({subjects:unit!,dates:date!,times:[1,2,3,4,5,6]})})
    const t1=performance.now()
    const of=(t:number)=>[...d.columns.keys()].filter(c=>d.termOf[c]===t).map(c=>Float64Array.from(d.columns,(_,j)=>j===c?1:0))
    console.log(coding,key,fit.converged,fit.iterations,fit.minusTwoLogLikelihood,fit.values.slice(0,3),(t1-t).toFixed(0)+'ms')
    if(coding==='sum'){ console.log([1,2,3,4].map(k=>JSON.stringify(satterthwaite(fit).test(of(k))))); if(fit.expansion) console.log([1,2,3,4].map(k=>JSON.stringify(kenwardRoger(fit).test(of(k)))));console.log((performance.now()-t1).toFixed(0)) }
  } }
}
{
  const rows = read('multi-site-barley')
  const [site,block,variety]=['site','block','variety'].map(c=>cls(rows,c)) as [Classification,Classification,Classification]
  const y=Float64Array.from(rows,r=>Number(r.yield))
  const d=designMatrix([variety],[['variety']],y.length,'reference')
  const t=performance.now()
  const fit=fitStructured({y,fixed:d.columns,random:[site,crossed('site:block',[site,block]),crossed('site:variety',[site,variety])],errors:byGroup(site)})
  console.log(fit.converged,fit.iterations,fit.minusTwoLogLikelihood,fit.values,performance.now()-t)
}
{
  const rows = read('m-spatial')
  const v=cls(rows,'variety')
  const y=Float64Array.from(rows,r=>Number(r.yield_t_ha))
  const d=designMatrix([v],[['variety']],y.length,'reference')
  for (const {key,model} of groundModels) {
    const t=performance.now()
    const fit=fitStructured({y,fixed:d.columns,random:[],errors:model({across:rows.map(r=>Number(r.x_m)),along:rows.map(r=>Number(r.y_m))})})
    console.log(key,fit.converged,fit.iterations,-fit.minusTwoLogLikelihood/2,fit.values,performance.now()-t)
  }
}
