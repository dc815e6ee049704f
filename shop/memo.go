package shop

import (
	"slices"
	"sync"
)

// memo keeps the last results by their content key; the oldest goes first.
type memo[T any] struct {
	mu    sync.Mutex
	max   int
	items map[string]T
	order []string
}

func newMemo[T any](max int) *memo[T] {
	return &memo[T]{max: max, items: map[string]T{}}
}

func (m *memo[T]) get(key string) (T, bool) {
	m.mu.Lock()
	defer m.mu.Unlock()
	v, ok := m.items[key]
	return v, ok
}

func (m *memo[T]) put(key string, v T) {
	m.mu.Lock()
	defer m.mu.Unlock()
	if _, ok := m.items[key]; !ok {
		m.order = append(m.order, key)
	}
	m.items[key] = v
	for len(m.order) > m.max {
		delete(m.items, m.order[0])
		m.order = m.order[1:]
	}
}

func (m *memo[T]) drop(key string) {
	m.mu.Lock()
	defer m.mu.Unlock()
	delete(m.items, key)
	m.order = slices.DeleteFunc(m.order, func(k string) bool { return k == key })
}
