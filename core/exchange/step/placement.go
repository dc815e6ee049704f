package step

import "arete/core/geom"

// placement is a motion in space with a scale: p goes to O + Scale·(X Y Z)·p.
type placement struct {
	geom.Frame
	scale float64
}

func unmoved() placement { return placement{geom.Identity(), 1} }

// then is the placement of what q places in p's coordinates.
func (p placement) then(q placement) placement {
	f := p.Frame.Then(q.Frame)
	f.O = p.O.Add(p.Turn(q.O).Mul(p.scale))
	return placement{f, p.scale * q.scale}
}

func (p placement) inverse() placement {
	f := p.Frame.Inverse()
	f.O = f.O.Mul(1 / p.scale)
	return placement{f, 1 / p.scale}
}
