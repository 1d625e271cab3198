// Package restbend carries the trade's data files, which live beside the code that
// reads them, into the program.
package restbend

import (
	"compress/gzip"
	"embed"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"maps"
	"slices"
	"sync"

	"restbend/core/assess"
	"restbend/core/catalogue"
	"restbend/core/kinds"
	"restbend/core/safety"
	"restbend/core/score"
)

//go:embed core/catalogue/ladders.txt core/catalogue/doses.yaml core/catalogue/tasks.yaml core/kinds/templates.yaml core/score/transitions.yaml core/catalogue/preferences.yaml core/catalogue/eases.yaml core/catalogue/gates.yaml core/catalogue/swaps.yaml core/catalogue/names.yaml core/catalogue/versions/*.yaml core/catalogue/revisions/*.yaml core/catalogue/revisions.lock core/catalogue/words.lock core/catalogue/solved.json.gz core/catalogue/ways.json.gz core/safety/limits.yaml core/safety/quantities.yaml core/assess/norms.yaml docs/formats/*.schema.json
var files embed.FS

// CatalogueSource returns the catalogue's files without the solved poses.
func CatalogueSource() (catalogue.Source, error) {
	var src catalogue.Source
	var err error
	if src.Files, err = folder("core/catalogue/versions"); err != nil {
		return src, err
	}
	if src.Old, err = folder("core/catalogue/revisions"); err != nil {
		return src, err
	}
	if src.Ladders, err = files.ReadFile("core/catalogue/ladders.txt"); err != nil {
		return src, err
	}
	if src.Eases, err = files.ReadFile("core/catalogue/eases.yaml"); err != nil {
		return src, err
	}
	if src.Gates, err = files.ReadFile("core/catalogue/gates.yaml"); err != nil {
		return src, err
	}
	if src.Swaps, err = files.ReadFile("core/catalogue/swaps.yaml"); err != nil {
		return src, err
	}
	if src.Names, err = files.ReadFile("core/catalogue/names.yaml"); err != nil {
		return src, err
	}
	if src.Preferences, err = PreferencesFile(); err != nil {
		return src, err
	}
	src.Doses, err = files.ReadFile("core/catalogue/doses.yaml")
	return src, err
}

// Catalogue loads the whole catalogue with its solved poses.
func Catalogue() (*catalogue.Catalogue, error) {
	src, err := CatalogueSource()
	if err != nil {
		return nil, err
	}
	type answer struct {
		cache *catalogue.Cache
		err   error
	}
	poses := make(chan answer, 1)
	go func() {
		cache, err := solved()
		poses <- answer{cache, err}
	}()
	c, err := catalogue.Read(src)
	if err != nil {
		return nil, err
	}
	a := <-poses
	if a.err != nil {
		return nil, fmt.Errorf("solved poses: %w", a.err)
	}
	return c, c.Join(a.cache)
}

// solved reads the generated file of solved poses.
func solved() (*catalogue.Cache, error) {
	c := &catalogue.Cache{Ways: sync.OnceValue(ways)}
	return c, unpack("core/catalogue/solved.json.gz", c)
}

// ways reads the generated file of ways between phases. One that cannot be read leaves films
// as stills; a test holds that it can.
func ways() map[string]catalogue.Way {
	out := map[string]catalogue.Way{}
	if err := unpack("core/catalogue/ways.json.gz", &out); err != nil {
		return nil
	}
	return out
}

// unpack reads an embedded compressed document.
func unpack(name string, into any) error {
	f, err := files.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		return err
	}
	data, err := io.ReadAll(z)
	if err != nil {
		return err
	}
	return json.Unmarshal(data, into)
}

// folder reads every YAML file of a folder.
func folder(dir string) (map[string][]byte, error) {
	out := map[string][]byte{}
	names, err := fs.Glob(files, dir+"/*.yaml")
	if err != nil {
		return nil, err
	}
	for _, n := range names {
		if out[n], err = files.ReadFile(n); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// RevisionLock is the recorded fingerprint of every entry.
func RevisionLock() (string, error) {
	data, err := files.ReadFile("core/catalogue/revisions.lock")
	return string(data), err
}

// WordsLock is the recorded fingerprint of what is said of every entry.
func WordsLock() (string, error) {
	data, err := files.ReadFile("core/catalogue/words.lock")
	return string(data), err
}

// Templates loads the kinds of session that practice knows.
func Templates(cat *catalogue.Catalogue) ([]kinds.Template, error) {
	data, err := files.ReadFile("core/kinds/templates.yaml")
	if err != nil {
		return nil, err
	}
	return kinds.ReadTemplates(data, cat)
}

// PreferencesFile is what is proposed and preferred when nobody says otherwise, as it is delivered.
func PreferencesFile() ([]byte, error) { return files.ReadFile("core/catalogue/preferences.yaml") }

// TasksFile is the file of real tasks, as it is delivered.
func TasksFile() ([]byte, error) { return files.ReadFile("core/catalogue/tasks.yaml") }

// Tasks loads the real tasks exercises are argued against.
func Tasks() ([]catalogue.Task, error) {
	data, err := TasksFile()
	if err != nil {
		return nil, err
	}
	return catalogue.ReadTasks(data)
}

// Rules loads the limits of every condition.
func Rules() (*safety.Rules, error) {
	data, err := files.ReadFile("core/safety/limits.yaml")
	if err != nil {
		return nil, err
	}
	words, err := Vocabulary()
	if err != nil {
		return nil, err
	}
	return safety.ParseRules(data, words)
}

// Vocabulary loads what is measured of a movement: the quantities limits name.
func Vocabulary() (*safety.Vocabulary, error) {
	data, err := files.ReadFile("core/safety/quantities.yaml")
	if err != nil {
		return nil, err
	}
	return safety.ParseVocabulary(data)
}

// Norms loads the reference values of the tests.
func Norms() (*assess.Norms, error) {
	data, err := files.ReadFile("core/assess/norms.yaml")
	if err != nil {
		return nil, err
	}
	return assess.ParseNorms(data)
}

// Schema returns the JSON Schema of a document, for example "client".
func Schema(name string) ([]byte, error) {
	data, err := files.ReadFile("docs/formats/" + name + ".schema.json")
	if err != nil || name != "client" {
		return data, err
	}
	rules, err := Rules()
	if err != nil {
		return nil, err
	}
	return WithConditions(data, rules)
}

// inside follows keys into a document.
func inside(doc map[string]any, path ...string) (map[string]any, error) {
	for _, key := range path {
		next, ok := doc[key].(map[string]any)
		if !ok {
			return nil, fmt.Errorf("client.schema.json: %s is missing", key)
		}
		doc = next
	}
	return doc, nil
}

// WithConditions fills the client's schema with the codes of conditions, warning signs and signs,
// and the words of their details: whoever adds one adds its data.
func WithConditions(schema []byte, rules *safety.Rules) ([]byte, error) {
	var doc map[string]any
	if err := json.Unmarshal(schema, &doc); err != nil {
		return nil, err
	}
	at, err := inside(doc, "properties", "conditions", "items", "properties")
	if err != nil {
		return nil, err
	}
	var codes, flags, signs []string
	for i := range rules.Conditions {
		codes = append(codes, rules.Conditions[i].Code)
	}
	for _, f := range rules.RedFlags {
		flags = append(flags, f.Code)
	}
	for _, s := range rules.Clearing.Signs {
		signs = append(signs, s.Code)
	}
	at["code"] = map[string]any{"enum": codes}
	for _, fill := range []struct {
		words []string
		path  []string
	}{
		{slices.Concat(codes, flags, signs), []string{"properties", "clearances", "items", "properties", "covers", "items"}},
		{flags, []string{"properties", "red_flags", "items", "then"}},
		{flags, []string{"properties", "red_flags", "items", "else", "properties", "code"}},
	} {
		in, err := inside(doc, fill.path...)
		if err != nil {
			return nil, err
		}
		in["enum"] = fill.words
	}
	for _, d := range rules.Details {
		words := slices.Concat(d.Options, d.Accepts)
		for _, code := range slices.Sorted(maps.Keys(d.For)) {
			for _, w := range slices.Concat(d.For[code].Options, d.For[code].Accepts) {
				if !slices.Contains(words, w) {
					words = append(words, w)
				}
			}
		}
		var is map[string]any
		switch d.Kind {
		case "choice":
			is = map[string]any{"enum": words}
		case "several":
			is = map[string]any{"type": "array", "items": map[string]any{"enum": words}, "maxItems": len(words)}
		case "yes":
			is = map[string]any{"type": "boolean"}
		case "number":
			is = map[string]any{"type": "number", "minimum": 0, "maximum": 2000}
		case "text":
			is = map[string]any{"type": "string", "maxLength": 4000}
		case "day":
			is = map[string]any{"type": "string", "format": "date"}
		case "past":
			is = map[string]any{
				"type":        "string",
				"format":      "day-or-year",
				"description": "a day, or a year alone for what is more than two years ago",
			}
		}
		if _, there := at[d.Name]; is != nil && (!there || d.Kind == "choice") { // what is written in the file says more
			at[d.Name] = is
		}
		if d.Now {
			at[d.Name+"_on"] = map[string]any{"type": "string", "format": "date", "description": "the day of the yes"}
		}
	}
	return json.Marshal(doc)
}

// Ways are how a client leaves one position and reaches the next.
var Ways = sync.OnceValues(func() (*score.Ways, error) {
	data, err := files.ReadFile("core/score/transitions.yaml")
	if err != nil {
		return nil, err
	}
	return score.ReadWays(data)
})
