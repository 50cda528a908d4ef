package store

import (
	"container/list"
	"sync"

	"kaiku/core/dossier"
)

// cache keeps dossiers, the least recently used going first once their estimated size exceeds
// the limit.
type cache struct {
	mu    sync.Mutex
	limit int
	size  int
	byID  map[homeID]*list.Element
	order list.List // of *cached, newest in front
}

type homeID = dossier.ID[dossier.Household]

type cached struct {
	home    homeID
	value   *dossier.Dossier
	witness *dossier.Dossier // a second copy, where the store guards its readers
	size    int
}

func newCache(limit int) *cache { return &cache{limit: limit, byID: map[homeID]*list.Element{}} }

func (c *cache) get(home homeID) *cached {
	c.mu.Lock()
	defer c.mu.Unlock()
	e := c.byID[home]
	if e == nil {
		return nil
	}
	c.order.MoveToFront(e)
	return e.Value.(*cached)
}

// put keeps the value unless a newer one is there already: a slow reader must not bring back
// what a writer has replaced.
func (c *cache) put(in *cached) {
	c.mu.Lock()
	defer c.mu.Unlock()
	in.size = sizeOf(in.value)
	if e := c.byID[in.home]; e != nil {
		if e.Value.(*cached).value.Revision > in.value.Revision {
			return
		}
		c.drop(e)
	}
	c.byID[in.home] = c.order.PushFront(in)
	c.size += in.size
	for c.size > c.limit && c.order.Len() > 1 {
		c.drop(c.order.Back())
	}
}

func (c *cache) drop(e *list.Element) {
	out := c.order.Remove(e).(*cached)
	delete(c.byID, out.home)
	c.size -= out.size
}

// sizeOf estimates the memory of a dossier: about 500 bytes a record were measured, and an
// attempt carries its facts besides.
func sizeOf(d *dossier.Dossier) int {
	n := 4096
	for _, k := range dossier.Kinds {
		n += 500 * k.In(d).Len()
	}
	return n + 2000*len(d.Attempts)
}
