// Package demo carries the data of the demo shop, Fennmark Instrument Works,
// who build river-gauge stations: models of parts and a shop library.
package demo

import "embed"

// Parts holds the STEP files, by name, under parts/.
//
//go:embed parts/*.step
var Parts embed.FS

// Library is the shop library in JSON.
//
//go:embed library.json
var Library []byte

// Part describes a demo part on the bench.
type Part struct {
	File, Name, Number, Revision string
	Lot                          int
}

// Bench lists the parts in work.
var Bench = []Part{
	{"gauge-lid", "Gauge housing lid", "FIW-1204", "B", 20},
	{"sensor-bracket", "Sensor bracket", "FIW-1317", "A", 40},
	{"valve-manifold", "Valve manifold", "FIW-1422", "C", 8},
}
