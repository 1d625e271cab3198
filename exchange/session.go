package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"

	"restbend/core/record"
	"restbend/core/score"
)

// ReadScore reads a restbend.score/1 document: segments without a gap, of items that are there.
func ReadScore(r io.Reader) (*score.Score, error) {
	s := &score.Score{}
	if err := read("score", r, s); err != nil {
		return nil, err
	}
	now := 0.0
	for i := range s.Segments {
		g := &s.Segments[i]
		path := fmt.Sprintf("segments[%d]", i)
		switch {
		case g.Item < 0 || g.Item >= len(s.Items):
			return nil, Problems{{path + ".item", fmt.Sprintf("found %d, allowed: 0 to %d", g.Item, len(s.Items)-1)}}
		case math.Abs(g.Start-now) > 0.001 || g.End < g.Start:
			return nil, Problems{{path + ".start", fmt.Sprintf("found %g to %g, allowed: from %g on", g.Start, g.End, now)}}
		}
		now = g.End
	}
	if math.Abs(now-s.Seconds) > 0.001 {
		return nil, Problems{{"seconds", fmt.Sprintf("found %g, allowed: %g, where the last segment ends", s.Seconds, now)}}
	}
	return s, nil
}

// ReadScoreOrClass reads a restbend.score/1 document, or a restbend.class/1 document with one in it.
func ReadScoreOrClass(r io.Reader) (*score.Score, *record.Class, error) {
	data, err := io.ReadAll(io.LimitReader(r, MaxDocument+1))
	if err != nil {
		return nil, nil, err
	}
	var kind struct {
		Format string          `json:"format"`
		Score  json.RawMessage `json:"score"`
	}
	if json.Unmarshal(data, &kind) != nil || kind.Format != record.ClassFormat {
		s, err := ReadScore(bytes.NewReader(data))
		return s, nil, err
	}
	s, err := ReadScore(bytes.NewReader(kind.Score))
	if err != nil {
		return nil, nil, err
	}
	c := &record.Class{}
	dec := json.NewDecoder(bytes.NewReader(data))
	dec.DisallowUnknownFields()
	if err := dec.Decode(c); err != nil {
		return nil, nil, Problems{{"(document)", err.Error()}}
	}
	c.Score = s
	if why := c.Problem(); why != "" {
		path, text, _ := strings.Cut(why, ": ")
		return nil, nil, Problems{{path, text}}
	}
	return s, c, nil
}

// ReadMarks reads a restbend.marks/1 document made in a session within bounds.
func ReadMarks(r io.Reader, b record.Bounds) (*record.Marks, error) {
	m := &record.Marks{}
	if err := read("marks", r, m); err != nil {
		return nil, err
	}
	var out Problems
	for i := range m.Marks {
		if p := m.Marks[i].Problem(b); p != "" {
			path, text, _ := strings.Cut(p, ": ")
			out = append(out, Problem{fmt.Sprintf("marks[%d].%s", i, path), text})
		}
	}
	if out != nil {
		return nil, out
	}
	return m, nil
}

// ReadMark reads one mark as it stands in a restbend.marks/1 document. It is the one reader of marks: of those a player
// sends, of those in a bundle, and of those that are kept.
func ReadMark(doc []byte, b record.Bounds) (m record.Mark, err error) {
	text := slices.Concat([]byte(`{"format": "restbend.marks/1", "marks": [`), doc, []byte("]}"))
	all, err := ReadMarks(bytes.NewReader(text), b)
	var inner Problems
	switch {
	case errors.As(err, &inner):
		for i := range inner {
			inner[i].Path = strings.TrimPrefix(strings.TrimPrefix(inner[i].Path, "marks[0]"), ".")
		}
		return m, inner
	case err != nil:
		return m, err
	case len(all.Marks) != 1:
		return m, Problems{{"(document)", "allowed: one mark"}}
	}
	return all.Marks[0], nil
}
