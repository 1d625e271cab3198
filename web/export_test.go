package web

import "github.com/gin-gonic/gin"

// Routes are what the server answers, for the tests of permissions.
func (s *Server) Routes() gin.RoutesInfo { return s.routeList }
