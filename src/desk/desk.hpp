// What the page of the desk asks, as JSON in and out; knows nothing of how that is carried.
//
// Stateless but for what was read lately (`Shelf`), work in the background and the files: a page
// says each time which text it means and which line of play, so that pages may come and go. Any
// thread may call. Nothing here throws for what a page sends: what cannot be answered is
// {"error": "…"}.
#pragma once

#include <string>

#include "base/json.hpp"
#include "desk/background.hpp"
#include "desk/papers.hpp"
#include "desk/table.hpp"
#include "editing/shelf.hpp"

namespace orchard::desk {

using editing::Shelf;

class Desk {
 public:
  // `path`: of the description; it need not be there yet. Pages begin with the sizes of the limits.
  Desk(std::string path, LoadOptions limits);

  // docs/FORMATS.md lists the verbs, and what each takes and gives.
  Json answer(const std::string& verb, const Json& request);

  // The windows for each seat: whether there is one of that token, and what is asked there. The
  // verbs are `look` and `choose`.
  bool has_window(const std::string& token) const { return table_.has(token); }
  Json answer_window(const std::string& token, const std::string& verb, const Json& request);

 private:
  Json open() const;
  Json save(const Json& request);
  Json look(const Json& request);
  Json strip(const Json& request);
  Json opponent(const Json& request);
  Json begin(const Json& request);

  const std::map<std::string, std::int64_t> sizes_;
  Papers papers_;
  Shelf shelf_;
  Background background_;
  Table table_;
};

}  // namespace orchard::desk
