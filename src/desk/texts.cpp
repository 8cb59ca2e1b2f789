#include "desk/texts.hpp"

#include "editing/completion.hpp"
#include "editing/edits.hpp"
#include "editing/insight.hpp"

namespace orchard::desk {

namespace {

using editing::Document;
using editing::Names;
using editing::Spot;
using editing::Units;

Json json_of(Spot spot) {
  return {{"line", spot.line}, {"ch", spot.unit}};
}

// As the file of a paper is called.
std::string file_of(const std::string& rules, const std::string& paper) {
  const std::size_t dot = rules.rfind('.');
  const std::string stem = rules.substr(0, dot);
  return paper == "rules" ? rules : stem + (paper == "drawing" ? ".draw" : "." + paper);
}

// The text that is meant, and where.
struct Pointed {
  Names rules;
  std::optional<Names> other;  // the text itself, if it is not the rules
  Document document;
  std::uint32_t offset = 0;

  const Names& names() const { return other ? *other : rules; }
  const editing::Name* name() const { return names().at(offset); }
};

Names names_of(const std::string& file, const Json& request, const std::string& paper,
               const Names* rules) {
  return Names(syntax::Source(file_of(file, paper), text_of(request, paper.c_str())), rules);
}

Pointed pointed(const std::string& file, const Json& request) {
  const std::string paper = text_of(request, "paper");
  Names rules = names_of(file, request, "rules", nullptr);
  std::optional<Names> other;
  if (paper == "cases" || paper == "claims" || paper == "drawing") {
    other.emplace(names_of(file, request, paper, &rules));
  }
  Document document(text_of(request, other ? paper.c_str() : "rules"));
  constexpr double most = 1e9;
  const Spot spot{static_cast<std::uint32_t>(number_of(request, "line", 0, most)),
                  static_cast<std::uint32_t>(number_of(request, "column", 0, most))};
  const std::uint32_t offset = document.offset(spot, Units::utf16);
  return {std::move(rules), std::move(other), std::move(document), offset};
}

}  // namespace

Json insight(Shelf& shelf, const std::string& file, const Json& request) {
  const Pointed at = pointed(file, request);
  const editing::Name* const name = at.name();
  if (name == nullptr) return Json::object();
  const auto reading = shelf.read(sheet_of(request));
  const auto told =
      editing::insight_of(at.names(), *name, at.rules, reading->game ? reading.get() : nullptr);
  Json made = Json::array();
  const Document rules{std::string(at.rules.source().text())};
  for (const editing::Name& one : at.rules.all()) {
    if (one.makes && same_thing(one, *name))
      made.push_back(rules.spot(one.begin, Units::utf16).line + 1);
  }
  return {{"shape", told.shape},
          {"lines", told.lines},
          {"made", made},
          {"from", json_of(at.document.spot(name->begin, Units::utf16))},
          {"to", json_of(at.document.spot(name->end, Units::utf16))}};
}

Json completions(Shelf& shelf, const std::string& file, const Json& request) {
  const Pointed at = pointed(file, request);
  if (at.rules.is_infix()) return {{"items", Json::array()}};
  // The page says the text that read last: what is being typed does not.
  Sheet sheet = sheet_of(request);
  if (!text_of(request, "last_good").empty()) sheet.rules = text_of(request, "last_good");
  const auto reading = shelf.read(sheet);
  const auto found = editing::completions_at(at.document.text(), at.offset, at.names().paper(),
                                             &at.rules, reading->game ? reading.get() : nullptr);
  Json items = Json::array();
  for (const editing::Completion& one : found.items) {
    items.push_back({{"name", one.name}, {"insert", one.insert}, {"detail", one.detail}});
  }
  return {{"items", items},
          {"from", json_of(at.document.spot(found.begin, Units::utf16))},
          {"to", json_of(at.document.spot(found.end, Units::utf16))}};
}

Json renaming(const std::string& file, const Json& request) {
  const Pointed at = pointed(file, request);
  const editing::Name* const name = at.name();
  if (name == nullptr) return error("there is no name here");
  const std::string instead = text_of(request, "name");
  const bool is_variable = name->sort == editing::Sort::variable;
  if (const auto fault = fault_in_renaming(is_variable ? at.names() : at.rules, *name, instead)) {
    return error(*fault);
  }
  Json texts = Json::object();
  for (const char* const paper : {"rules", "cases", "claims", "drawing"}) {
    const bool is_meant = text_of(request, "paper") == paper;
    if (is_variable && !is_meant) continue;
    const std::string text = text_of(request, paper);
    const Names names =
        names_of(file, request, paper, std::string_view(paper) == "rules" ? nullptr : &at.rules);
    const std::string changed = edited(text, renamed(names, *name, instead));
    if (changed != text) texts[paper] = changed;
  }
  return {{"texts", texts}};
}

Json fixes_json(const std::string& file, const std::string& text, const Diagnostics& findings) {
  Json list = Json::array();
  const Document document{text};
  const Names names(syntax::Source(file, text));
  for (const Diagnostic& one : findings) {
    Json fixes = Json::array();
    for (const editing::Fix& fix : fixes_of(names, one)) {
      fixes.push_back({{"title", fix.title},
                       {"from", json_of(document.spot(fix.edit.begin, Units::utf16))},
                       {"to", json_of(document.spot(fix.edit.end, Units::utf16))},
                       {"instead", fix.edit.instead}});
    }
    list.push_back(std::move(fixes));
  }
  return list;
}

}  // namespace orchard::desk
