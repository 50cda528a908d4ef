package httpapi

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"kaiku/core/dossier"
	"kaiku/core/knowledge"
	"kaiku/service"
	"kaiku/wire"
)

// OnePerson is the place of someone of the firm, or of one of one's own log-ins.
type OnePerson struct {
	ID string `path:"id" format:"uuid" doc:"Id."`
}

func (s *Server) registerRecipes() {
	operation(s, "list-recipes", http.MethodGet, "/recipes", "List the firm's recipes", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]knowledge.Recipe], error) {
		all, err := s.service.Recipes(ctx, a)
		return &answer[[]knowledge.Recipe]{Body: all}, err
	})
	op := s.describe("import-recipes", http.MethodPost, "/recipes", "Add the recipes of a file, or replace those of the same name")
	register(s, op, func(ctx context.Context, in *struct {
		RawBody []byte `contentType:"application/yaml"`
	}) (*answer[[]knowledge.Recipe], error) {
		all, err := s.service.ImportRecipes(ctx, actorOf(ctx), in.RawBody)
		return &answer[[]knowledge.Recipe]{Body: all}, err
	})
	s.setBody(op.Path, http.MethodPost, "application/yaml", &huma.Schema{Type: "object", AdditionalProperties: true, Description: "YAML 1.2 or JSON: format, which is kaiku-recipes/1, and recipes, a list in the shape that GET returns."})
	export := s.describe("export-recipes", http.MethodGet, "/recipes/file", "Export recipes as a file")
	export.Responses = map[string]*huma.Response{"200": {Description: "OK", Content: map[string]*huma.MediaType{"application/yaml": {Schema: &huma.Schema{Type: "string"}}}}}
	register(s, export, func(ctx context.Context, in *struct {
		Name []string `query:"name,explode" maxItems:"500" doc:"Names of the recipes; all if left out."`
	}) (*bodyAnswer, error) {
		body, err := s.service.ExportRecipes(ctx, actorOf(ctx), in.Name)
		return &bodyAnswer{ContentType: "application/yaml", Body: body}, err
	})
	operation(s, "remove-recipe", http.MethodDelete, "/recipes/{name}", "Remove a recipe", func(ctx context.Context, a service.Actor, in *struct {
		Name string `path:"name" maxLength:"120" doc:"Name of the recipe."`
	}) (*struct{}, error) {
		return &struct{}{}, s.service.RemoveRecipe(ctx, a, in.Name)
	})
	s.registerKnowledge()
	s.registerFaults()
	operation(s, "show-entry-card", http.MethodGet, "/households/{code}/paths/{id}/card", "Show what has to be keyed in on the device of a path", func(ctx context.Context, a service.Actor, in *OneOf) (*answer[wire.EntryCard], error) {
		card, err := s.service.EntryCard(ctx, a, in.Code, dossier.ID[dossier.Path](in.ID))
		return &answer[wire.EntryCard]{Body: card}, err
	})
	operation(s, "show-wifi-code", http.MethodPost, "/households/{code}/segments/{id}/wifi-code", "Show the Wi-Fi network of a segment as a code to scan; the reason stays in the journal", func(ctx context.Context, a service.Actor, in *struct {
		OneOf
		Body wire.Why
	}) (*answer[wire.WiFiCode], error) {
		code, err := s.service.WiFiCode(ctx, a, in.Code, dossier.ID[dossier.Segment](in.ID), in.Body.Why)
		return &answer[wire.WiFiCode]{Body: code}, err
	})
	operation(s, "show-forecast", http.MethodGet, "/households/{code}/forecast", "Show what of each folder plays on which device, and why not", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Forecast], error) {
		f, err := s.service.Forecast(ctx, a, in.Code)
		return &answer[wire.Forecast]{Body: f}, err
	})
	operation(s, "show-load", http.MethodGet, "/households/{code}/load", "Show what the paths of a household ask of its network, and which changes would leave more room", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Load], error) {
		l, err := s.service.Load(ctx, a, in.Code)
		return &answer[wire.Load]{Body: l}, err
	})
	operation(s, "show-load-together", http.MethodGet, "/households/{code}/load/together", "Show what paths ask of the network when they are in use at once", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Path []string `query:"path,explode" required:"true" minItems:"1" maxItems:"200" doc:"Ids of the paths."`
	}) (*answer[wire.LoadCase], error) {
		c, err := s.service.LoadTogether(ctx, a, in.Code, in.Path)
		return &answer[wire.LoadCase]{Body: c}, err
	})
	operation(s, "propose-paths", http.MethodGet, "/households/{code}/devices/{id}/ways", "Show by which ways a device can get what is wished for, and what stands against each", func(ctx context.Context, a service.Actor, in *OneOf) (*answer[wire.Proposal], error) {
		p, err := s.service.Proposal(ctx, a, in.Code, in.ID)
		return &answer[wire.Proposal]{Body: p}, err
	})
	operation(s, "show-openings", http.MethodGet, "/households/{code}/needed-openings", "Show what the firewalls of a household have to let in for its paths, and what is open for nothing", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.Openings], error) {
		o, err := s.service.Openings(ctx, a, in.Code)
		return &answer[wire.Openings]{Body: o}, err
	})
	operation(s, "list-waking", http.MethodGet, "/households/{code}/waking", "List which machines a household's paths need awake, and who has to wake them", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.Waking], error) {
		w, err := s.service.Wakings(ctx, a, in.Code)
		return &answer[[]wire.Waking]{Body: w}, err
	})
	operation(s, "show-room-card", http.MethodGet, "/households/{code}/rooms/{id}/card", "Show what is in a room, how to watch there, and what of that is proven", func(ctx context.Context, a service.Actor, in *OneOf) (*answer[wire.RoomCard], error) {
		c, err := s.service.RoomCard(ctx, a, in.Code, dossier.ID[dossier.Room](in.ID))
		return &answer[wire.RoomCard]{Body: c}, err
	})
	operation(s, "show-ends", http.MethodGet, "/households/{code}/ends", "Show the two ends of each path beside each other and beside what the latest scan saw", func(ctx context.Context, a service.Actor, in *InHome) (*answer[wire.BothEnds], error) {
		e, err := s.service.BothEnds(ctx, a, in.Code)
		return &answer[wire.BothEnds]{Body: e}, err
	})
	operation(s, "list-recipe-steps", http.MethodGet, "/households/{code}/recipe-steps", "List what the firm's recipes ask for in a household", func(ctx context.Context, a service.Actor, in *InHome) (*answer[[]wire.RecipeStep], error) {
		steps, err := s.service.RecipeSteps(ctx, a, in.Code)
		return &answer[[]wire.RecipeStep]{Body: steps}, err
	})
	operation(s, "set-recipe-step", http.MethodPost, "/households/{code}/recipe-steps", "Record that a step of a recipe is set", func(ctx context.Context, a service.Actor, in *struct {
		InHome
		Keyed
		Body wire.SetRecipeStep
	}) (*answer[[]wire.RecipeStep], error) {
		steps, err := s.service.SetRecipeStep(ctx, a, in.Code, in.Body, request(ctx, in.Keyed, in.Body))
		return &answer[[]wire.RecipeStep]{Body: steps}, err
	})
}

func (s *Server) registerFirm() {
	operation(s, "add-person", http.MethodPost, "/people", "Add a person to the firm", func(ctx context.Context, a service.Actor, in *struct{ Body wire.NewPerson }) (*answer[wire.PersonMade], error) {
		p, err := s.service.NewPerson(ctx, a, in.Body)
		return &answer[wire.PersonMade]{Body: p}, err
	})
	operation(s, "change-person", http.MethodPatch, "/people/{id}", "Change, suspend or restore a person", func(ctx context.Context, a service.Actor, in *struct {
		OnePerson
		Body wire.PersonChange
	}) (*answer[wire.Person], error) {
		p, err := s.service.ChangePerson(ctx, a, dossier.PersonID(in.ID), in.Body)
		return &answer[wire.Person]{Body: p}, err
	})
	operation(s, "reset-person", http.MethodPost, "/people/{id}/reset", "Give a person a new password", func(ctx context.Context, a service.Actor, in *OnePerson) (*answer[wire.PersonMade], error) {
		p, err := s.service.ResetPerson(ctx, a, dossier.PersonID(in.ID))
		return &answer[wire.PersonMade]{Body: p}, err
	})
	operation(s, "change-password", http.MethodPost, "/me/password", "Change your own password; all log-ins end", func(ctx context.Context, a service.Actor, in *struct{ Body wire.NewPassword }) (*struct{}, error) {
		return &struct{}{}, s.service.ChangePassword(ctx, a, in.Body)
	})
	operation(s, "offer-second-factor", http.MethodPost, "/me/second-factor/offer", "Make a secret for a program that shows codes; nothing is set up yet", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[wire.SecondFactorOffer], error) {
		o, err := s.service.OfferSecondFactor(ctx, a)
		return &answer[wire.SecondFactorOffer]{Body: o}, err
	})
	operation(s, "set-second-factor", http.MethodPost, "/me/second-factor", "Set up a second factor with a code of an offer; other log-ins end", func(ctx context.Context, a service.Actor, in *struct{ Body wire.SetSecondFactor }) (*struct{}, error) {
		return &struct{}{}, s.service.SetSecondFactor(ctx, a, in.Body)
	})
	operation(s, "remove-second-factor", http.MethodPost, "/me/second-factor/remove", "Take your second factor away", func(ctx context.Context, a service.Actor, in *struct{ Body wire.RemoveSecondFactor }) (*struct{}, error) {
		return &struct{}{}, s.service.RemoveSecondFactor(ctx, a, in.Body)
	})
	operation(s, "list-logins", http.MethodGet, "/me/logins", "List your own log-ins and tokens", func(ctx context.Context, a service.Actor, _ *struct{}) (*answer[[]wire.LogInRow], error) {
		l, err := s.service.LogIns(ctx, a, tokenOf(ctx))
		return &answer[[]wire.LogInRow]{Body: l}, err
	})
	operation(s, "end-login", http.MethodDelete, "/me/logins/{id}", "End a log-in or token", func(ctx context.Context, a service.Actor, in *OnePerson) (*struct{}, error) {
		return &struct{}{}, s.service.EndLogIn(ctx, a, in.ID)
	})
	operation(s, "add-token", http.MethodPost, "/me/tokens", "Create a token for a program", func(ctx context.Context, a service.Actor, in *struct{ Body wire.NewToken }) (*answer[wire.TokenMade], error) {
		t, err := s.service.NewToken(ctx, a, in.Body)
		return &answer[wire.TokenMade]{Body: t}, err
	})
}
