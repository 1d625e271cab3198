package web

import "github.com/gin-gonic/gin"

// Routes are what the server answers, for the tests of permissions.
func (s *App) Routes() gin.RoutesInfo { return s.routeList }
