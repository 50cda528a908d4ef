package httpapi

import "github.com/danielgtaylor/huma/v2/validation"

// The library's words for what is wrong with a value, as people read them in forms and commands. It
// puts them together when operations are registered, so they are set before.
func init() {
	for message, text := range map[*string]string{
		&validation.MsgExpectedRFC3339DateTime:        "is not a date and time such as 2026-11-27T18:30:00Z (RFC 3339)",
		&validation.MsgExpectedRFC3339Date:            "is not a date such as 2026-11-27",
		&validation.MsgExpectedRFC3339Time:            "is not a time such as 18:30:00Z",
		&validation.MsgExpectedRFC3986URI:             "is not a URI: %v",
		&validation.MsgExpectedRFC4122UUID:            "is not a UUID: %v",
		&validation.MsgExpectedBoolean:                "must be true or false",
		&validation.MsgExpectedNumber:                 "must be a number",
		&validation.MsgExpectedInteger:                "must be a whole number",
		&validation.MsgExpectedString:                 "must be text",
		&validation.MsgExpectedBase64String:           "is not base64",
		&validation.MsgExpectedArray:                  "must be a list",
		&validation.MsgExpectedObject:                 "must be an object",
		&validation.MsgExpectedArrayItemsUnique:       "has an entry twice",
		&validation.MsgExpectedOneOf:                  "must be one of: %s",
		&validation.MsgExpectedMinimumNumber:          "must be at least %v",
		&validation.MsgExpectedExclusiveMinimumNumber: "must be more than %v",
		&validation.MsgExpectedMaximumNumber:          "must be at most %v",
		&validation.MsgExpectedExclusiveMaximumNumber: "must be less than %v",
		&validation.MsgExpectedMinLength:              "is too short; the minimum length is %d",
		&validation.MsgExpectedMaxLength:              "is too long; the maximum length is %d",
		&validation.MsgExpectedBePattern:              "must be %s",
		&validation.MsgExpectedMatchPattern:           "does not match the pattern %s",
		&validation.MsgExpectedMinItems:               "has too few entries; the minimum is %d",
		&validation.MsgExpectedMaxItems:               "has too many entries; the maximum is %d",
	} {
		*message = text
	}
}
