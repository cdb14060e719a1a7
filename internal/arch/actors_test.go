package arch

import (
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"strings"
	"testing"
)

// What the server may ask of use cases without saying for whom, and why.
var forNobody = map[string]string{
	"Accounts.Acting":          "finds out who acts",
	"Accounts.Closed":          "finds out whether people sign in",
	"Accounts.SignIn":          "of whoever gives the password",
	"Accounts.BeginSignIn":     "of whoever has a passkey",
	"Accounts.SignInByPasskey": "of whoever has the passkey",
	"Accounts.Invited":         "of whoever has the link",
	"Accounts.Accept":          "of whoever has the link",
	"Guests.Open":              "of whoever has the link",
	"Guests.Enter":             "finds out who looks",
	"Accounts.Done":            "the audit trail is of everybody",
	"Accounts.Of":              "the audit trail is of everybody",
	"Runs.Count":               "numbers of all runs, for whoever watches the server",
	"Proofs.PNG":               openedForSomebody,
	"Proofs.Cast":              openedForSomebody,
	"Proofs.Read":              openedForSomebody,
	"Proofs.Blame":             openedForSomebody,
	"Proofs.NoiseMap":          openedForSomebody,
}

// The server has a *Proof only from Proofs.Open, which takes who asks: Proofs.Film, which
// does not, is not listed above.
const openedForSomebody = "of a proof that was opened for somebody"

// packageOf parses the files of a package, tests left out.
func packageOf(t *testing.T, path string) (files []*ast.File) {
	t.Helper()
	names, err := filepath.Glob(filepath.Join("..", path, "*.go"))
	if err != nil || len(names) == 0 {
		t.Fatalf("no files in %s: %v", path, err)
	}
	for _, n := range names {
		if strings.HasSuffix(n, "_test.go") {
			continue
		}
		f, err := parser.ParseFile(token.NewFileSet(), n, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		files = append(files, f)
	}
	return files
}

// takesActor are the methods of a package's Service that take an identity.Actor.
func takesActor(t *testing.T, path string) map[string]bool {
	out := map[string]bool{}
	for _, f := range packageOf(t, path) {
		for _, d := range f.Decls {
			m, ok := d.(*ast.FuncDecl)
			if !ok || m.Recv == nil || !isPointerTo(m.Recv.List[0].Type, "Service") {
				continue
			}
			out[m.Name.Name] = false
			for _, p := range m.Type.Params.List {
				if s, ok := p.Type.(*ast.SelectorExpr); ok && s.Sel.Name == "Actor" {
					out[m.Name.Name] = true
				}
				if isPointerTo(p.Type, "Guest") { // who looks by a link, for one of those who are asked
					out[m.Name.Name] = true
				}
			}
		}
	}
	return out
}

func isPointerTo(e ast.Expr, name string) bool {
	star, ok := e.(*ast.StarExpr)
	if !ok {
		return false
	}
	id, ok := star.X.(*ast.Ident)
	return ok && id.Name == name
}

// Every use case that the server calls takes who acts, so that accounts are a policy
// and not a rewrite.
func TestTheServerSaysForWhom(t *testing.T) {
	services := map[string]map[string]bool{}
	asked := 0
	for _, f := range packageOf(t, "server") {
		ast.Inspect(f, func(n ast.Node) bool {
			call, ok := n.(*ast.CallExpr)
			if !ok {
				return true
			}
			method, ok := call.Fun.(*ast.SelectorExpr)
			if !ok {
				return true
			}
			service, ok := method.X.(*ast.SelectorExpr) // app.Runs of s.app.Runs.List
			if !ok {
				return true
			}
			if app, ok := service.X.(*ast.SelectorExpr); !ok || app.Sel.Name != "app" {
				return true
			}
			name := service.Sel.Name
			if services[name] == nil {
				services[name] = takesActor(t, strings.ToLower(name))
			}
			asked++
			if takes, ok := services[name][method.Sel.Name]; !ok {
				t.Errorf("%s.%s is not a method of its service", name, method.Sel.Name)
			} else if !takes && forNobody[name+"."+method.Sel.Name] == "" {
				t.Errorf("%s.%s does not take who acts", name, method.Sel.Name)
			}
			return true
		})
	}
	if asked < 30 {
		t.Errorf("only %d calls were found", asked)
	}
}
