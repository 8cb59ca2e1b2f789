#include "language_server/answers.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>

#include "editing/completion.hpp"
#include "editing/insight.hpp"
#include "orchard/format.hpp"

namespace orchard::language_server {

using editing::Edit;
using editing::Name;
using editing::Sort;

const Json& member(const Json& message, const char* name) {
  static const Json none = Json::object();
  if (!message.is_object()) return none;
  const auto found = message.find(name);
  return found == message.end() ? none : *found;
}

std::string text_in(const Json& message, const char* name) {
  const Json& text = member(message, name);
  return text.is_string() ? text.get<std::string>() : std::string();
}

std::optional<Spot> spot_in(const Json& position) {
  const Json& line = member(position, "line");
  const Json& unit = member(position, "character");
  if (!line.is_number_unsigned() || !unit.is_number_unsigned()) return std::nullopt;
  constexpr std::uint64_t most = 0x7FFFFFFF;
  return Spot{static_cast<std::uint32_t>(std::min(line.get<std::uint64_t>(), most)),
              static_cast<std::uint32_t>(std::min(unit.get<std::uint64_t>(), most))};
}

namespace {

Json json_of(Spot spot) {
  return {{"line", spot.line}, {"character", spot.unit}};
}

// As the protocol numbers them.
int severity_of(Severity severity) {
  return severity == Severity::error ? 1 : severity == Severity::suspicious ? 2 : 4;
}

enum class ItemKind {
  method = 2,
  function = 3,
  field = 5,
  variable = 6,
  keyword = 14,
  constant = 21
};
ItemKind item_kind(Sort sort) {
  switch (sort) {
    case Sort::relation:
      return ItemKind::function;
    case Sort::fluent:
      return ItemKind::field;
    case Sort::move:
      return ItemKind::method;
    case Sort::variable:
      return ItemKind::variable;
    case Sort::keyword:
    case Sort::directive:
    case Sort::word:
      return ItemKind::keyword;
    default:
      return ItemKind::constant;
  }
}

// Where a diagnostic is, in bytes.
std::pair<std::uint32_t, std::uint32_t> stretch_of(const Document& document, const Place& place) {
  const std::uint32_t begin = document.offset_of_character(place.line, place.column);
  const std::uint32_t end =
      document.offset_of_character(place.line, place.column + std::max(place.width, 1));
  return {begin, std::max(begin, end)};
}

const Diagnostics& findings_of(const Sight& sight) {
  static const Diagnostics none;
  if (sight.knowledge == nullptr) return none;
  const auto found = sight.knowledge->findings.find(sight.path);
  return found == sight.knowledge->findings.end() ? none : found->second;
}

}  // namespace

Json range_of(const Document& document, std::uint32_t begin, std::uint32_t end, Units units) {
  return {{"start", json_of(document.spot(begin, units))},
          {"end", json_of(document.spot(end, units))}};
}

const Reading* Answers::reading() const {
  return sight_.knowledge == nullptr ? nullptr : sight_.knowledge->last_good.get();
}

const Name* Answers::name_at(Spot spot) const {
  return sight_.names->at(sight_.document.offset(spot, units_));
}

Json Answers::location(const Sight& sight, std::uint32_t begin, std::uint32_t end) const {
  return {{"uri", uri_of(sight.path)}, {"range", range_of(sight.document, begin, end, units_)}};
}

Json Answers::diagnostics() const {
  Json list = Json::array();
  for (const Diagnostic& one : findings_of(sight_)) {
    Json entry;
    std::string message = one.message;
    // Of a file that is included: said at the top.
    const bool elsewhere = !one.place.file.empty() && one.place.file != sight_.path;
    if (elsewhere) message = fmt::format("{}:{}: {}", one.place.file, one.place.line, message);
    if (!one.remedy.empty()) message += "\n" + one.remedy;
    const auto [begin, end] =
        elsewhere ? std::pair(0u, 0u) : stretch_of(sight_.document, one.place);
    entry = {{"range", range(begin, end)},
             {"severity", severity_of(one.severity)},
             {"code", one.code},
             {"source", "orchard"},
             {"message", message}};
    for (const Note& note : one.notes) {
      if (note.place.file != sight_.path || note.place.line < 1) continue;
      const auto [from, to] = stretch_of(sight_.document, note.place);
      entry["relatedInformation"].push_back(
          {{"location", location(sight_, from, to)}, {"message", note.message}});
    }
    list.push_back(std::move(entry));
  }
  return list;
}

Json Answers::hover(Spot spot) const {
  const Name* const name = name_at(spot);
  if (name == nullptr || sight_.rules == nullptr) return nullptr;
  const editing::Insight insight =
      editing::insight_of(*sight_.names, *name, *sight_.rules, reading());
  if (insight.shape.empty() && insight.lines.empty()) return nullptr;
  std::string text = "```gdl\n" + insight.shape + "\n```";
  for (const std::string& line : insight.lines) {
    std::string safe;
    // What the rules call things must not be taken for marks.
    for (const char c : line) {
      if (std::string_view("\\`*[]<>").find(c) != std::string_view::npos) safe += '\\';
      safe += c;
    }
    text += "\n\n" + safe;
  }
  return {{"contents", {{"kind", "markdown"}, {"value", text}}},
          {"range", range(name->begin, name->end)}};
}

Json Answers::definition(Spot spot) const {
  const Name* const name = name_at(spot);
  if (name == nullptr) return nullptr;
  // Variables belong to their own text; all else is made by the rules.
  const bool own = name->sort == Sort::variable || sight_.rules == nullptr;
  const Names& names = own ? *sight_.names : *sight_.rules;
  Json places = Json::array();
  const Name* first = nullptr;
  Sight rules = sight_;
  if (&names != sight_.names.get()) {
    rules.path = names.source().name();
    rules.document = Document(std::string(names.source().text()));
  }
  for (const Name& one : names.all()) {
    if (!same_thing(one, *name)) continue;
    if (first == nullptr) first = &one;
    if (one.makes) places.push_back(location(rules, one.begin, one.end));
  }
  if (places.empty() && first != nullptr)
    places.push_back(location(rules, first->begin, first->end));
  return places;
}

Json Answers::references(Spot spot, bool with_definition,
                         const std::vector<Sight>& companions) const {
  Json places = Json::array();
  const Name* const name = name_at(spot);
  if (name == nullptr) return places;
  const auto add = [&](const Sight& sight) {
    for (const Name& one : sight.names->all()) {
      if (same_thing(one, *name) && (with_definition || !one.makes)) {
        places.push_back(location(sight, one.begin, one.end));
      }
    }
  };
  add(sight_);
  if (name->sort != Sort::variable) {
    for (const Sight& other : companions) add(other);
  }
  return places;
}

Json Answers::highlights(Spot spot) const {
  Json places = Json::array();
  const Name* const name = name_at(spot);
  if (name == nullptr) return places;
  constexpr int read = 2;
  constexpr int write = 3;
  for (const Name& one : sight_.names->all()) {
    if (same_thing(one, *name)) {
      places.push_back({{"range", range(one.begin, one.end)}, {"kind", one.makes ? write : read}});
    }
  }
  return places;
}

// What each form at the top makes, or is called.
Json Answers::symbols() const {
  constexpr int function_symbol = 12;
  constexpr int field_symbol = 8;
  constexpr int method_symbol = 6;
  constexpr int text_symbol = 15;
  Json list = Json::array();
  std::vector<const Name*> titles(sight_.names->forms(), nullptr);
  for (const Name& one : sight_.names->all()) {
    const bool is_title = one.sort == Sort::text && sight_.names->paper() != Paper::rules;
    if (!(one.makes || is_title) || one.sort == Sort::variable) continue;
    // A fluent or a move says more than `next` or `legal`.
    const Name*& title = titles[one.form];
    if (title == nullptr || (title->sort == Sort::keyword && one.is_term())) title = &one;
  }
  for (const Name* const title : titles) {
    if (title == nullptr) continue;
    const Name& one = *title;
    const bool is_title = one.sort == Sort::text;
    const auto [begin, end] = sight_.names->form(one.form);
    const int kind = is_title                   ? text_symbol
                     : one.sort == Sort::fluent ? field_symbol
                     : one.sort == Sort::move   ? method_symbol
                                                : function_symbol;
    list.push_back({{"name", one.name.empty() ? "\"\"" : one.name},
                    {"kind", kind},
                    {"range", range(begin, end)},
                    {"selectionRange", range(one.begin, one.end)}});
  }
  return list;
}

Json Answers::folds() const {
  Json list = Json::array();
  const auto add = [&](std::uint32_t begin, std::uint32_t end, const char* kind) {
    const Spot first = sight_.document.spot(begin, units_);
    const Spot last = sight_.document.spot(end, units_);
    if (last.line <= first.line) return;
    Json& fold = list.emplace_back();
    fold = {{"startLine", first.line}, {"endLine", last.line}};
    if (kind != nullptr) fold["kind"] = kind;
  };
  for (std::uint32_t form = 0; form < sight_.names->forms(); ++form) {
    const auto [begin, end] = sight_.names->form(form);
    add(begin, end, nullptr);
  }
  // Comments on lines that follow one another.
  const auto& comments = sight_.names->tree().comments();
  for (std::size_t i = 0; i < comments.size();) {
    std::size_t last = i;
    while (last + 1 < comments.size() &&
           sight_.document.spot(comments[last + 1].begin, units_).line ==
               sight_.document.spot(comments[last].begin, units_).line + 1) {
      ++last;
    }
    add(comments[i].begin, comments[last].begin, "comment");
    i = last + 1;
  }
  return list;
}

Json Answers::completion(Spot spot) const {
  Json items = Json::array();
  if (sight_.names->is_infix()) return items;
  const auto completions =
      editing::completions_at(sight_.document.text(), sight_.document.offset(spot, units_),
                              sight_.names->paper(), sight_.rules.get(), reading());
  const Json where = range(completions.begin, completions.end);
  std::size_t number = 0;
  for (const editing::Completion& one : completions.items) {
    items.push_back({{"label", one.name},
                     {"kind", static_cast<int>(item_kind(one.sort))},
                     {"detail", one.detail},
                     {"filterText", one.insert},
                     {"sortText", fmt::format("{:06}", number++)},
                     {"textEdit", {{"range", where}, {"newText", one.insert}}}});
  }
  return items;
}

Json Answers::fixes(std::uint32_t begin, std::uint32_t end) const {
  Json list = Json::array();
  if (!sight_.is_known()) return list;
  const Json all = diagnostics();
  std::size_t number = 0;
  for (const Diagnostic& one : findings_of(sight_)) {
    const Json& shown = all[number++];
    const auto [from, to] = stretch_of(sight_.document, one.place);
    if (to < begin || from > end) continue;
    for (const editing::Fix& fix : editing::fixes_of(*sight_.names, one)) {
      const Json edit = {{"range", range(fix.edit.begin, fix.edit.end)},
                         {"newText", fix.edit.instead}};
      list.push_back({{"title", fix.title},
                      {"kind", "quickfix"},
                      {"diagnostics", Json::array({shown})},
                      {"isPreferred", fix.likely},
                      {"edit", {{"changes", {{uri_of(sight_.path), Json::array({edit})}}}}}});
    }
  }
  return list;
}

Json Answers::lenses() const {
  Json list = Json::array();
  const std::string uri = uri_of(sight_.path);
  const auto add = [&](const Name& at, const std::string& title, const char* command,
                       Json arguments) {
    list.push_back(
        {{"range", range(at.begin, at.end)},
         {"command",
          {{"title", title}, {"command", command}, {"arguments", std::move(arguments)}}}});
  };
  const std::vector<editing::Name>& names = sight_.names->all();
  if (sight_.names->paper() == Paper::rules) {
    const auto start =
        std::ranges::find_if(names, [](const Name& name) { return name.name == "init"; });
    if (start != names.end()) add(*start, "draw the start", draw_command, Json::array({uri}));
    return list;
  }
  static const std::vector<Outcome> none;
  const std::vector<Outcome>* outcomes = &none;
  if (sight_.is_known()) {
    const auto found = sight_.knowledge->outcomes.find(sight_.path);
    if (found != sight_.knowledge->outcomes.end()) outcomes = &found->second;
  }
  for (std::size_t i = 0; i + 1 < names.size(); ++i) {
    const bool is_case = names[i].sort == Sort::word && names[i].name == "case";
    const bool is_claim = names[i].sort == Sort::word && names[i].name == "claim";
    if ((!is_case && !is_claim) || names[i + 1].sort != Sort::text) continue;
    const std::string& name = names[i + 1].name;
    const auto outcome = std::ranges::find(*outcomes, name, &Outcome::name);
    std::string title = outcome == outcomes->end() ? "not run yet" : outcome->words;
    if (is_case) {
      add(names[i], title + " (run it)", run_case_command, Json::array({uri, name}));
      add(names[i], "draw its last position", draw_command, Json::array({uri, name}));
    } else {
      add(names[i], title, "", Json::array());
    }
  }
  return list;
}

// Five numbers a token: lines and units since the one before, length, kind, marks.
Json Answers::tokens() const {
  constexpr std::array<unsigned, 10> kinds{0, 1, 2, 3, 4, 5, 6, 7, 0, 8};  // by sort, of the legend
  constexpr unsigned comment = 9;
  struct Token {
    std::uint32_t begin;
    std::uint32_t end;
    unsigned kind;
    bool makes;
  };
  std::vector<Token> tokens;
  for (const Name& name : sight_.names->all()) {
    tokens.push_back(
        {name.begin, name.end, kinds[static_cast<std::size_t>(name.sort)], name.makes});
  }
  for (const syntax::Comment& one : sight_.names->tree().comments()) {
    tokens.push_back({one.begin, one.end, comment, false});
  }
  std::ranges::sort(tokens, {}, &Token::begin);
  Json data = Json::array();
  Spot before;
  std::uint32_t reached = 0;
  for (const Token& token : tokens) {
    const Spot begin = sight_.document.spot(token.begin, units_);
    const Spot end = sight_.document.spot(token.end, units_);
    if (end.line != begin.line || token.begin < reached) continue;  // a text over several lines
    reached = token.end;
    data.push_back(begin.line - before.line);
    data.push_back(begin.line == before.line ? begin.unit - before.unit : begin.unit);
    data.push_back(end.unit - begin.unit);
    data.push_back(token.kind);
    data.push_back(token.makes ? 1 : 0);
    before = begin;
  }
  return {{"data", std::move(data)}};
}

Json Answers::formatted() const {
  const std::string& text = sight_.document.text();
  const auto laid_out = format_text(text, sight_.path);
  if (!laid_out || *laid_out == text) return Json::array();
  return Json::array(
      {{{"range", range(0, static_cast<std::uint32_t>(text.size()))}, {"newText", *laid_out}}});
}

Json Answers::can_be_renamed(Spot spot) const {
  const Name* const name = name_at(spot);
  if (name == nullptr || sight_.rules == nullptr) return nullptr;
  const Names& names = name->sort == Sort::variable ? *sight_.names : *sight_.rules;
  // Whether it has a name that can be changed at all.
  const std::string any = name->sort == Sort::variable ? "?a_name_of_its_own" : "a_name_of_its_own";
  if (editing::fault_in_renaming(names, *name, any)) return nullptr;
  return {{"range", range(name->begin, name->end)},
          {"placeholder", sight_.document.text().substr(name->begin, name->end - name->begin)}};
}

Answers::Renaming Answers::renaming(Spot spot, std::string name,
                                    const std::vector<Sight>& companions) const {
  const Name* const old = name_at(spot);
  if (old == nullptr || sight_.rules == nullptr) return {nullptr, "there is no name here"};
  const bool is_variable = old->sort == Sort::variable;
  if (is_variable && sight_.names->is_infix() && !name.empty()) {
    name = "?" +
           std::string(1, static_cast<char>(std::tolower(static_cast<unsigned char>(name[0])))) +
           name.substr(1);
  } else if (is_variable && !name.starts_with('?')) {
    name = "?" + name;
  }
  const auto fault =
      editing::fault_in_renaming(is_variable ? *sight_.names : *sight_.rules, *old, name);
  if (fault) return {nullptr, *fault};
  Json changes = Json::object();
  const auto add = [&](const Sight& sight) {
    Json edits = Json::array();
    for (const Edit& edit : editing::renamed(*sight.names, *old, name)) {
      edits.push_back({{"range", range_of(sight.document, edit.begin, edit.end, units_)},
                       {"newText", edit.instead}});
    }
    if (!edits.empty()) changes[uri_of(sight.path)] = std::move(edits);
  };
  add(sight_);
  if (!is_variable) {
    for (const Sight& other : companions) add(other);
  }
  return {{{"changes", std::move(changes)}}, {}};
}

}  // namespace orchard::language_server
