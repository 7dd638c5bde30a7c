package httpapi_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"slices"
	"strings"
	"testing"

	"proscen/api"
	"proscen/core/scenetest"
	"proscen/internal/blobs"
	"proscen/internal/httpapi"
	"proscen/internal/live"
	"proscen/internal/pgtest"
	"proscen/internal/render"
	"proscen/internal/store"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/stretchr/testify/require"
	"gocloud.dev/blob/memblob"
)

// chance makes requests of bytes: the same bytes make the same request.
type chance struct {
	from []byte
	ids  []string // that exist
}

func (c *chance) byte() int {
	if len(c.from) == 0 {
		return 0
	}
	b := c.from[0]
	c.from = c.from[1:]
	return int(b)
}

func (c *chance) of(n int) int { return (c.byte()<<8 | c.byte()) % n }

func (c *chance) text() string {
	switch c.of(8) {
	case 0:
		return ""
	case 1:
		return string(c.take(c.of(40)))
	case 2:
		return []string{"\x00", "\xff\xfe", "\u202e", "../../etc/passwd", "'; drop table scenes; --", "%00", "a\u0000b"}[c.of(7)]
	case 3:
		return strings.Repeat("x", c.of(60_000))
	case 4:
		return strings.Repeat("ab", 32)
	}
	return c.ids[c.of(len(c.ids))]
}

func (c *chance) take(n int) []byte {
	n = min(n, len(c.from))
	out := c.from[:n]
	c.from = c.from[n:]
	return out
}

func (c *chance) number() any {
	return []any{0, 1, -1, 2, 7, 24, 100, 1 << 31, -(1 << 31) - 1, 1e300, -0.5, json.RawMessage("1e999"), json.RawMessage("12345678901234567890")}[c.of(13)]
}

// value makes a value as a schema describes it, most of the time.
func (c *chance) value(ref *openapi3.SchemaRef, depth int) any {
	if ref == nil || depth > 6 || c.of(24) == 0 {
		return []any{nil, true, c.number(), c.text(), []any{}, m{}, []any{m{}, nil}, m{"a": m{}}}[c.of(7)]
	}
	s := ref.Value
	switch {
	case len(s.Enum) > 0:
		return s.Enum[c.of(len(s.Enum))]
	case s.Type.Is("object"):
		out := m{}
		for _, name := range sorted(s.Properties) {
			if slices.Contains(s.Required, name) || c.of(2) == 0 {
				out[name] = c.value(s.Properties[name], depth+1)
			}
		}
		return out
	case s.Type.Is("array"):
		out := []any{}
		for range c.of(4) {
			out = append(out, c.value(s.Items, depth+1))
		}
		return out
	case s.Type.Is("integer"), s.Type.Is("number"):
		return c.number()
	case s.Type.Is("boolean"):
		return c.of(2) == 0
	case s.Type.Is("string"):
		return c.text()
	}
	if c.of(2) == 0 {
		return json.RawMessage(scenetest.Small().Encode())
	}
	return c.value(nil, depth+1)
}

func sorted[T any](in map[string]T) []string {
	var out []string
	for k := range in {
		out = append(out, k)
	}
	slices.Sort(out)
	return out
}

// request makes a request of one operation of the API.
func (c *chance) request(spec *openapi3.T, base string) *http.Request {
	paths := sorted(spec.Paths.Map())
	path := paths[c.of(len(paths))]
	item := spec.Paths.Find(path)
	methods := sorted(item.Operations())
	method := methods[c.of(len(methods))]
	operation := item.GetOperation(method)
	query := url.Values{}
	for _, all := range []openapi3.Parameters{item.Parameters, operation.Parameters} {
		for _, p := range all {
			v := fmt.Sprint(c.value(p.Value.Schema, 0))
			if c.of(3) > 0 {
				v = c.text()
			}
			if p.Value.In == "path" {
				path = strings.ReplaceAll(path, "{"+p.Value.Name+"}", url.PathEscape(v))
			} else if c.of(2) == 0 {
				query.Set(p.Value.Name, v)
			}
		}
	}
	var body io.Reader
	kind := "application/json"
	if r := operation.RequestBody; r != nil {
		for media, content := range r.Value.Content {
			kind = media
			if media == "application/json" && c.of(12) > 0 {
				raw, err := json.Marshal(c.value(content.Schema, 0))
				if err == nil {
					body = bytes.NewReader(raw)
				}
			}
		}
		if body == nil {
			body = bytes.NewReader(c.take(c.of(4000)))
		}
	}
	req, err := http.NewRequest(method, base+"/api"+path+"?"+query.Encode(), body)
	if err != nil {
		return nil
	}
	req.Header.Set("Content-Type", kind)
	return req
}

// FuzzAPI sends requests made of the API's description to a real server on a real
// database: whatever is asked, no answer says that the server has failed, and each
// refusal is a sentence.
func FuzzAPI(f *testing.F) {
	spec, err := openapi3.NewLoader().LoadFromData(api.Spec)
	require.NoError(f, err)
	ctx := context.Background()
	st, err := store.Open(ctx, pgtest.Database(f))
	require.NoError(f, err)
	f.Cleanup(st.Close)
	queue, err := render.NewQueue(st, nil, quiet)
	require.NoError(f, err)
	handler, err := (&httpapi.API{Store: st, Queue: queue, Bucket: blobs.Of(memblob.OpenBucket(nil)), Hub: live.NewHub(httpapi.Encode), Log: quiet}).Handler()
	require.NoError(f, err)
	server := httptest.NewServer(handler)
	f.Cleanup(server.Close)
	ids := []string{"cut", "s1", "a", "wide", "main", "m"}
	for _, title := range []string{"One", "Two"} {
		doc := scenetest.Small()
		doc.Settings.Title = title
		info, err := st.CreateScene(ctx, doc)
		require.NoError(f, err)
		d := store.Delivery{SceneID: info.ID, Assembly: "cut", Width: 64, Height: 36, Quality: "rough", Rate: "24", Document: doc.Encode(), Outputs: []store.Output{{Kind: store.Video, ShotID: "s1", Subject: "s1", Path: func(int) string { return "x" }, Ending: "mp4", Frames: 48}}}
		require.NoError(f, st.CreateDelivery(ctx, &d, info, queue.Enqueue))
		v, err := st.KeepVersion(ctx, info.ID, 0, "first", "Ida")
		require.NoError(f, err)
		ids = append(ids, info.ID, d.ID, d.Outputs[0].ID, v.ID)
	}
	productions, err := st.Productions(ctx)
	require.NoError(f, err)
	ids = append(ids, productions[0].ID, productions[0].Name)
	for i := range 64 {
		seed := make([]byte, 96)
		for k := range seed {
			seed[k] = byte(i*31 + k*k*7 + i*k)
		}
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		c := &chance{from: data, ids: ids}
		for range 4 {
			req := c.request(spec, server.URL)
			if req == nil {
				continue
			}
			if strings.HasSuffix(req.URL.Path, "/panels") || strings.HasSuffix(req.URL.Path, "/metrics") {
				continue // the reader of PDFs has its own fuzz
			}
			resp, err := http.DefaultClient.Do(req)
			if err != nil {
				t.Fatalf("%s %s: %v", req.Method, req.URL, err)
			}
			said, err := io.ReadAll(resp.Body)
			_ = resp.Body.Close()
			if err != nil || resp.StatusCode >= 500 {
				t.Fatalf("%s %.300s: %d %s %v", req.Method, req.URL, resp.StatusCode, said, err)
			}
			var p httpapi.Problem
			if resp.StatusCode >= 400 && (json.Unmarshal(said, &p) != nil || p.Title == "") {
				t.Fatalf("%s %.300s: %d without a sentence: %.300s", req.Method, req.URL, resp.StatusCode, said)
			}
		}
	})
}
