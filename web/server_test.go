package web_test

import (
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"arete/shop"
)

// Scenarios: a request, its status, what must and must not be in the answer.
func TestPagesAnswer(t *testing.T) {
	base, _ := bench(t)
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	for _, c := range []struct {
		method, path, form string
		swap               bool
		status             int
		has, hasNot        string
	}{
		{"GET", "/", "", false, 200, "Gauge housing lid", ""},
		{"GET", "/parts/1", "", false, 303, "", ""},
		{"GET", "/parts/1/part", "", false, 200, "<html", "panic"},
		{"GET", "/parts/1/part", "", true, 200, "Volume", "<html"},
		{"GET", "/parts/1/hold", "", true, 200, "Which way is up", "<html"},
		{"GET", "/parts/1/tools", "", true, 200, "End mill 16", ""},
		{"GET", "/parts/1/cut/S1", "", true, 200, "Face mill 50", ""},
		{"GET", "/parts/1/cut/S999", "", true, 404, "There is no such part or step", ""},
		{"GET", "/parts/x/cut", "", false, 404, "no such part", ""},
		{"GET", "/tools?find=6.6", "", false, 200, "Drill 6.6", "End mill 16"},
		{"GET", "/tools/77", "", false, 404, "", ""},
		{"GET", "/machines", "", false, 200, "Aluminium", ""},
		{"POST", "/parts/1/steps/S2/set", "key=ae&value=1/8in", true, 200, `value="3.175"`, ""},
		{"POST", "/parts/1/steps/S2/set", "key=ae&value=%3Cscript%3E", true, 422, "&lt;script&gt;", "<script>"},
		{"POST", "/parts/1/steps/S2/set", "key=nonsense&value=1", true, 422, "no setting", ""},
		{"POST", "/parts/1/steps/S2/tool", "value=88", true, 422, "not in the magazine", ""},
		{"POST", "/parts/1/steps/S2/explode", "", true, 404, "", ""},
		{"POST", "/parts/1/setup", "key=z_min&value=-1", true, 422, "margin", ""},
		{"POST", "/parts/1/setup", "key=up&value=sideways", true, 422, "six directions", ""},
		{"POST", "/parts/1/setup", "key=work_offset&value=G99", true, 422, "G54 to G59", ""},
		{"POST", "/parts/1/drive", "key=push&value=900", true, 422, "between 0 and 100", ""},
		{"POST", "/parts/1/drive", "key=material&value=unobtainium", true, 422, "not in the library", ""},
		{"POST", "/parts/1/undo", "at=/parts/1/cut/S2", true, 200, "", ""},
		{"POST", "/parts/1/steps", "feature=F99", true, 422, "pick a face", ""},
		{"POST", "/parts/1/steps", "feature=F10", true, 422, "another setup", ""},
		{"GET", "/parts/1/picture.png", "", false, 200, "PNG", ""},
		{"GET", "/parts/1/features/F3", "", false, 200, "Tightest inside corner", ""},
		{"GET", "/parts/1/features/F99", "", false, 404, "", ""},
		{"POST", "/parts/1/features/F3", "key=kind&value=round_hole", true, 422, "cannot be called that", ""},
		{"POST", "/parts/1/features/F3", "key=name&value=" + strings.Repeat("x", 61), true, 422, "at most 60", ""},
		{"POST", "/parts/1/features/F3", "key=name&value=%3Cb%3EWell", true, 200, "&lt;b&gt;Well", "<b>Well"},
		{"POST", "/parts/1/features/F3", "key=colour&value=1", true, 422, "no such setting", ""},
		{"POST", "/parts/1/body", "value=2", true, 422, "choose one of them", ""},
		{"POST", "/parts/1/body", "value=x", true, 422, "choose a body", ""},
		{"POST", "/parts/1/layer", "layer=A&key=depth&value=3", true, 422, "no such layer", ""},
		{"GET", "/parts/1/edges", "", false, 200, `"kind":"circle"`, ""},
		{"GET", "/parts/1/export/part.stl", "", false, 200, "binary mesh, mm", ""},
		{"GET", "/parts/1/export/regions.dxf", "", false, 200, "POLYLINE", ""},
		{"GET", "/parts/1/export/regions.svg", "", false, 200, "<svg", ""},
		{"GET", "/parts/1/export/secrets.txt", "", false, 404, "", ""},
		{"GET", "/static/js/main.js", "", false, 200, "follow()", ""},
	} {
		t.Run(c.method+" "+c.path+" "+c.form, func(t *testing.T) {
			req, err := http.NewRequest(c.method, base+c.path, strings.NewReader(c.form))
			require.NoError(t, err)
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			if c.swap {
				req.Header.Set("HX-Request", "true")
			}
			res, err := client.Do(req)
			require.NoError(t, err)
			defer res.Body.Close()
			body, err := io.ReadAll(res.Body)
			require.NoError(t, err)
			assert.Equal(t, c.status, res.StatusCode, string(body[:min(300, len(body))]))
			assert.True(t, strings.Contains(string(body), c.has), "want %q", c.has)
			assert.False(t, c.hasNot != "" && strings.Contains(string(body), c.hasNot), "must not hold %q", c.hasNot)
		})
	}
}

func TestOtherSitesCannotPost(t *testing.T) {
	base, _ := bench(t)
	req, err := http.NewRequest("POST", base+"/parts/1/delete", strings.NewReader(url.Values{}.Encode()))
	require.NoError(t, err)
	req.Header.Set("Origin", "http://elsewhere.example")
	res, err := http.DefaultClient.Do(req)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, http.StatusForbidden, res.StatusCode)
}

// Of an assembly another body is cut, and back by undo.
func TestAnotherBodyIsCut(t *testing.T) {
	base, desk := bench(t)
	data, err := os.ReadFile("../core/exchange/step/testdata/shapes/assembly.step")
	require.NoError(t, err)
	id, err := desk.Import(t.Context(), shop.Part{File: "assembly.step"}, data)
	require.NoError(t, err)
	at := fmt.Sprintf("%s/parts/%d", base, id)
	page := func(res *http.Response, err error) string {
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return string(body)
	}
	assert.Contains(t, page(http.Get(at+"/part")), "60 × 40 × 10 mm")
	assert.Len(t, page(http.Get(at + "/bodies.bin"))[:4], 4, "the pins are there to be shown")
	page(http.PostForm(at+"/features/F1", url.Values{"key": {"name"}, "value": {"Seat"}}))
	assert.Contains(t, page(http.Get(at+"/part")), "Seat")
	assert.Contains(t, page(http.PostForm(at+"/body", url.Values{"value": {"2"}})), `aria-label="Cut Pin" checked`)
	assert.NotContains(t, page(http.Get(at+"/part")), "Seat", "what was said of the other body's faces does not hold here")
	assert.Contains(t, page(http.PostForm(at+"/undo", url.Values{"at": {fmt.Sprintf("/parts/%d/part", id)}})), "60 × 40 × 10 mm")
}

// Of an assembly a body is the stock and another a fixture; the one that is
// cut can be neither.
func TestBodiesAreStockAndFixture(t *testing.T) {
	base, desk := bench(t)
	data, err := os.ReadFile("../core/exchange/step/testdata/shapes/assembly.step")
	require.NoError(t, err)
	id, err := desk.Import(t.Context(), shop.Part{File: "assembly.step"}, data)
	require.NoError(t, err)
	at := fmt.Sprintf("%s/parts/%d", base, id)
	post := func(path string, v url.Values) (int, string) {
		res, err := http.PostForm(at+path, v)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(body)
	}
	code, page := post("/setup", url.Values{"key": {"fix"}, "value": {"2::Pin"}})
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, page, `aria-label="Take Pin away"`)
	res, err := http.Get(at + "/fixtures.bin")
	require.NoError(t, err)
	defer res.Body.Close()
	mesh, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.NotEmpty(t, mesh)
	code, _ = post("/setup", url.Values{"key": {"blank"}, "value": {"3::Pin"}})
	assert.Equal(t, http.StatusOK, code, "a body beside the part is stock that does not cover it: told by the proof")
	st, err := desk.Proven(t.Context(), id)
	require.NoError(t, err)
	assert.Contains(t, strings.Join(st.Proof.Findings(), "\n"), "does not cover the part")
	for _, v := range []string{"1::Plate", "99::", "x", ":nowhere:gone.stl"} {
		code, page = post("/setup", url.Values{"key": {"fix"}, "value": {v}})
		assert.Equal(t, http.StatusUnprocessableEntity, code, v)
		assert.Contains(t, page, `role="alert"`)
	}
	code, page = post("/setup", url.Values{"key": {"unfix"}, "value": {"2::Pin"}})
	assert.Equal(t, http.StatusOK, code)
	assert.NotContains(t, page, `aria-label="Take Pin away"`)
}

// Two users select on the same part: the second, whose page shows faces that
// the first has taken off, is told to select again and changes nothing.
func TestASelectionOnAnOlderShapeIsRefused(t *testing.T) {
	base, desk := bench(t)
	at := base + "/parts/1"
	st, err := desk.Ready(t.Context(), 1)
	require.NoError(t, err)
	shown := st.Result.Geometry.Shape
	hole := st.Result.Geometry.Work.Features.ByID("F9")
	require.NotNil(t, hole)
	faces := strings.Trim(strings.ReplaceAll(fmt.Sprint(hole.Faces), " ", ","), "[]")
	post := func(path string, v url.Values) (int, string) {
		res, err := http.PostForm(at+path, v)
		require.NoError(t, err)
		defer res.Body.Close()
		body, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(body)
	}
	take := url.Values{"act": {"remove"}, "faces": {faces}, "shape": {shown}}
	code, page := post("/prepare", take)
	require.Equal(t, http.StatusOK, code, page)
	for path, v := range map[string]url.Values{
		"/prepare": take,
		"/group":   {"act": {"own"}, "faces": {faces}, "shape": {shown}},
		"/picks":   {"keep": {"yes"}, "name": {"x"}, "faces": {faces}, "shape": {shown}},
	} {
		code, page = post(path, v)
		assert.Equal(t, http.StatusUnprocessableEntity, code, path)
		assert.Contains(t, page, "select again", path)
	}
	saved, err := desk.Plan(t.Context(), 1)
	require.NoError(t, err)
	assert.Len(t, saved.Plan.Setup.Prepare, 1)
	assert.Empty(t, saved.Plan.Setup.Groups)
	assert.Empty(t, saved.Plan.Setup.Picks)
}
