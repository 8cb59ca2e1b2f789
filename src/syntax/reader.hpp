// From characters to forms: the prefix syntax.
//
// Reads everything it can: a mistake costs the form it stands in, never the rest of the text.
// Linear in the text; memory in proportion to it; no recursion.
#pragma once

#include "syntax/tree.hpp"

namespace orchard::syntax {

struct ReaderOptions {
  bool strings = false;  // "…" with \" and \\ is one token, as in the project's own file forms
  Limits limits;
};

// The forms of a text. Mistakes go to `diagnostics`:
//   unclosed-parenthesis, unopened-parenthesis, stray-character, unnamed-variable,
//   unclosed-string, too-deep, too-many-symbols.
// A tree comes back in any case. After a mistake it holds what could be read, so that further
// mistakes can be found in it; after one that ends the reading (too deep, too many symbols,
// unclosed string) it holds no forms.
Tree read(Source source, const ReaderOptions& options, Diagnostics& diagnostics);

// The same in the syntax that the name of the source tells: infix for NAME.gdli, else prefix.
Tree read_by_name(Source source, const ReaderOptions& options, Diagnostics& diagnostics);

}  // namespace orchard::syntax
