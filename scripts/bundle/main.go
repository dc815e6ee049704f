// Command bundle makes one file of the parts of three.js that the view uses.
// Usage: bundle NODE_MODULES OUTPUT
package main

import (
	"log"
	"os"

	"github.com/evanw/esbuild/pkg/api"
)

const entry = `export { WebGLRenderer, Scene, OrthographicCamera, PerspectiveCamera, Mesh, BufferGeometry, BufferAttribute,
  MeshLambertMaterial, MeshBasicMaterial, LineBasicMaterial, LineDashedMaterial, LineSegments, Line, Group, Color, Vector2, Vector3, Matrix4,
  Quaternion, Raycaster, DirectionalLight, HemisphereLight, AmbientLight, LatheGeometry, BoxGeometry, EdgesGeometry, DoubleSide, FrontSide,
  Plane, DynamicDrawUsage, Box3, Sphere } from 'three';`

func main() {
	if len(os.Args) != 3 {
		log.Fatal("usage: bundle NODE_MODULES OUTPUT")
	}
	r := api.Build(api.BuildOptions{
		Stdin:             &api.StdinOptions{Contents: entry, ResolveDir: os.Args[1]},
		Bundle:            true,
		Format:            api.FormatESModule,
		MinifySyntax:      true,
		MinifyWhitespace:  true,
		MinifyIdentifiers: true,
		LegalComments:     api.LegalCommentsEndOfFile,
		Outfile:           os.Args[2],
		Write:             true,
	})
	for _, e := range r.Errors {
		log.Print(e.Text)
	}
	if len(r.Errors) > 0 {
		os.Exit(1)
	}
}
