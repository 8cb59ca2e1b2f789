// From characters to forms: the infix syntax, the general notation of logic programs.
//
//   legal(Gardener, tie(Row, Column)) :-          (<= (legal ?gardener (tie ?row ?column))
//       true(turn(Gardener)),                         (true (turn ?gardener))
//       \+ tied(Row, Column),                         (not (tied ?row ?column))
//       (top(Row) ; bottom(Row)).                     (or (top ?row) (bottom ?row)))
//
// A form ends with a full stop. Names begin with a small letter, whole numbers are names, any
// other name stands in single quotes with \' and \\. Variables begin with a capital letter or an
// underscore and stand for the same name in small letters after a question mark; `_` alone is a
// new variable each time; ?'…' is a variable of any name. `name()` is a list of one name. % starts
// a comment. Directives are written as functions: #for(Row, 1, rows, row(Row)); a rule as an
// argument stands in parentheses.
//
// Reads everything it can: a mistake costs the form it stands in. Linear in the text; no recursion.
#pragma once

#include "syntax/reader.hpp"

namespace orchard::syntax {

// Mistakes go to `diagnostics`: unexpected-text, unclosed-parenthesis, unopened-parenthesis,
// unfinished-form, bad-name, stray-character, unclosed-string, too-deep, too-many-symbols.
Tree read_infix(Source source, const ReaderOptions& options, Diagnostics& diagnostics);

}  // namespace orchard::syntax
