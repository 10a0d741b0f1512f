import { genericProducts } from '@canter/core/amounts'
import { bareProduct, Nutrient, type Product, type ShelfItem } from '@canter/core/trial'
import { formatPlain } from '@canter/core/quantity'
import { Button, Select, TextInput } from '@mantine/core'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { ApiProblem, NoAnswer } from '../data/client.ts'
import { useAddToShelf, useChangeShelf, useShelf, useTakeOffShelf } from '../data/queries.ts'
import type { Saved } from '../data/saving.ts'
import { ProductFields, type ProductPatch } from '../forms/product-fields.tsx'
import { Head } from './head.tsx'
import classes from './shelf.module.css'

/** What outlives a trial: products with their labels, and ground. What is changed here changes no trial. */
export function ShelfPage() {
  const shelf = useShelf()
  const { mutateAsync: add } = useAddToShelf()
  const { mutateAsync: takeOff } = useTakeOffShelf()
  const [search, setSearch] = useSearchParams()
  const [name, setName] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const [off, setOff] = useState<ShelfItem | null>(null)
  const products = shelf.flatMap((item) => (item.kind === 'product' ? [item] : []))
  const sites = shelf.flatMap((item) => (item.kind === 'site' ? [item] : []))
  const chosen = products.find((item) => item.id === search.get('item')) ?? products[0] ?? null
  const attempt = async (act: () => Promise<ShelfItem>): Promise<ShelfItem | null> => {
    try {
      const done = await act()
      setProblem(null)
      return done
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
      return null
    }
  }
  const put = async (product: Product): Promise<void> => {
    if (products.some((item) => item.name === product.product)) return setProblem(`“${product.product}” is on the shelf already.`)
    const item = await attempt(() => add({ kind: 'product', name: product.product, body: product }))
    if (item) {
      setName('')
      setSearch({ item: item.id })
    }
  }
  const remove = async (item: ShelfItem): Promise<void> => {
    if (await attempt(() => takeOff(item.id))) {
      setOff(item)
      if (search.get('item') === item.id) setSearch({})
    }
  }
  return (
    <>
      <Head>
        <span className="small quiet">Shelf</span>
      </Head>
      <main id="main" className={classes.page}>
        <h1 className={classes.title}>Shelf</h1>
        <p className="quiet">
          Trials start from what stands here and keep it as it was then: a change here changes no amount that was worked out.
        </p>
        {problem && (
          <p className="caution" role="alert">
            {problem}
          </p>
        )}
        {off && (
          <p className="small" role="status">
            {off.name} is off the shelf.{' '}
            <button
              type="button"
              className="link-button"
              onClick={() =>
                void attempt(() =>
                  add(
                    off.kind === 'product'
                      ? { kind: 'product', name: off.name, body: off.body }
                      : { kind: 'site', name: off.name, body: off.body },
                  ),
                ).then((done) => done && setOff(null))
              }
            >
              Put it back
            </button>
          </p>
        )}
        <div className={classes.sides}>
          <div>
            <h2 className="section-title">Products</h2>
            <ul className={classes.list}>
              {products.map((item) => (
                <li key={item.id} data-chosen={item.id === chosen?.id}>
                  <button type="button" className="link-button" onClick={() => setSearch({ item: item.id })}>
                    {item.name}
                  </button>
                  <div className="small quiet">{inShort(item.body)}</div>
                </li>
              ))}
              {products.length === 0 && <li className="quiet">None yet: begin with one as it usually is, or name one.</li>}
            </ul>
            <Select
              label="Begin with one as such things usually are"
              placeholder="urea, gypsum, a wetter …"
              searchable
              value={null}
              data={genericProducts.filter((each) => !products.some((item) => item.name === each.product)).map((each) => each.product)}
              onChange={(chosenName) => {
                const product = genericProducts.find((each) => each.product === chosenName)
                if (product) void put(product)
              }}
            />
            <form
              className={classes.named}
              onSubmit={(event) => {
                event.preventDefault()
                if (name.trim() !== '') void put(bareProduct(name.trim()))
              }}
            >
              <TextInput label="Or name one" maxLength={120} value={name} onChange={(event) => setName(event.currentTarget.value)} />
              <Button type="submit" variant="outline" size="compact-md">
                Add
              </Button>
            </form>
            <h2 className="section-title" style={{ marginTop: 22 }}>
              Ground
            </h2>
            <ul className={classes.list}>
              {sites.map((item) => (
                <li key={item.id}>
                  {item.name}{' '}
                  <button
                    type="button"
                    className="link-button small"
                    aria-label={`Take ${item.name} off the shelf`}
                    onClick={() => void remove(item)}
                  >
                    Take off
                  </button>
                  <div className="small quiet">{item.body.soil}</div>
                </li>
              ))}
              {sites.length === 0 && <li className="quiet">None yet: a trial’s site is kept here from its Ground step.</li>}
            </ul>
          </div>
          {chosen ? (
            <OnShelf key={chosen.id} item={chosen} onRemove={() => void remove(chosen)} />
          ) : (
            <p className="quiet">Pick a product to see and change what its label says.</p>
          )}
        </div>
      </main>
    </>
  )
}

function OnShelf({ item, onRemove }: { item: Extract<ShelfItem, { kind: 'product' }>; onRemove: () => void }) {
  const { mutateAsync } = useChangeShelf()
  const [failed, setFailed] = useState<string | null>(null)
  const change = async (patch: ProductPatch): Promise<Saved> => {
    const body = typeof patch === 'function' ? patch(item.body) : patch
    try {
      // What it is called here is what stands on the bag.
      await mutateAsync({ item: item.id, patch: { body, ...(body.product ? { name: body.product } : {}) } })
      setFailed(null)
      return { ok: true }
    } catch (error) {
      const problem = error instanceof ApiProblem || error instanceof NoAnswer ? error.message : String(error)
      setFailed(problem)
      return { ok: false, left: false, problem }
    }
  }
  return (
    <section aria-label={item.name}>
      <div className={classes.head}>
        <h2 className="section-title">{item.name}</h2>
        <button type="button" className="link-button small" onClick={onRemove}>
          Take it off the shelf
        </button>
      </div>
      {failed && (
        <p className="caution small" role="alert">
          Not kept: {failed}
        </p>
      )}
      <ProductFields product={item.body} change={change} />
      <p className="caution small">
        What is typed here is read off the label by a person: the label of the bag in hand, local rules and licensed practice come first.
      </p>
    </section>
  )
}

/** Its analysis and what it is, in a line. */
function inShort({ analysis, form, active, hygiene }: Product): string {
  const held = Nutrient.options.flatMap((each) => (analysis[each] ? [`${each} ${formatPlain(analysis[each], 4)} %`] : []))
  return [form, held.join(', '), active?.name, hygiene && hygiene !== active?.name ? hygiene : ''].filter(Boolean).join(' · ')
}
