package server

// Routes are the methods and paths that the server answers.
func (s *Server) Routes() (out []string) {
	for _, r := range s.engine.Routes() {
		out = append(out, r.Method+" "+r.Path)
	}
	return out
}
