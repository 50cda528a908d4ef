package papers

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"strings"

	"go.yaml.in/yaml/v3"

	"kaiku/core/knowledge"
)

// recipeFile is the form in which recipes are handed from firm to firm: YAML (1.2) or JSON.
type recipeFile struct {
	Format  string             `yaml:"format"`
	Recipes []knowledge.Recipe `yaml:"recipes"`
}

// RecipeFormat names the form of a file of recipes.
const RecipeFormat = "kaiku-recipes/1"

// mostRecipes bounds what a file of recipes may hold.
const mostRecipes = 500

// ReadRecipes reads a file of recipes. What it does not know is an error: a step that was read by half
// would be set by half.
func ReadRecipes(text string) ([]knowledge.Recipe, error) {
	decoder := yaml.NewDecoder(strings.NewReader(text))
	decoder.KnownFields(true)
	var file recipeFile
	if err := decoder.Decode(&file); errors.Is(err, io.EOF) {
		return nil, errors.New("the file is empty")
	} else if err != nil {
		return nil, yamlError(err)
	}
	switch {
	case file.Format != RecipeFormat:
		return nil, fmt.Errorf("the file must say format: %s", RecipeFormat)
	case len(file.Recipes) == 0:
		return nil, errors.New("the file holds no recipes")
	case len(file.Recipes) > mostRecipes:
		return nil, fmt.Errorf("the file holds more than %d recipes", mostRecipes)
	}
	return file.Recipes, nil
}

// WriteRecipes writes recipes as a file.
func WriteRecipes(list []knowledge.Recipe) ([]byte, error) {
	var b bytes.Buffer
	encoder := yaml.NewEncoder(&b)
	encoder.SetIndent(2)
	err := encoder.Encode(recipeFile{RecipeFormat, list})
	return b.Bytes(), err
}
