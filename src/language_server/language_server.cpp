#include "language_server/language_server.hpp"

#include <fmt/core.h>

#include <algorithm>

#include "base/interruption.hpp"
#include "orchard/cases.hpp"
#include "orchard/picture.hpp"
#include "picture/face/frames.hpp"

namespace orchard::language_server {

namespace {

// Codes of JSON-RPC and of the protocol.
constexpr int parse_error = -32700;
constexpr int invalid_request = -32600;
constexpr int method_not_found = -32601;
constexpr int invalid_parameters = -32602;
constexpr int not_initialized = -32002;
constexpr int request_failed = -32803;

constexpr double case_patience = 10;  // seconds, for a case that is run on its own

Json error(int code, const std::string& message) {
  return {{"code", code}, {"message", message}};
}

Json capabilities(Units units) {
  const char* const encoding = units == Units::utf8    ? "utf-8"
                               : units == Units::utf16 ? "utf-16"
                                                       : "utf-32";
  constexpr int incremental = 2;
  return {{"positionEncoding", encoding},
          {"textDocumentSync", {{"openClose", true}, {"change", incremental}, {"save", true}}},
          {"hoverProvider", true},
          {"definitionProvider", true},
          {"referencesProvider", true},
          {"documentHighlightProvider", true},
          {"documentSymbolProvider", true},
          {"foldingRangeProvider", true},
          {"documentFormattingProvider", true},
          {"renameProvider", {{"prepareProvider", true}}},
          {"completionProvider", {{"triggerCharacters", {"(", "?", "#"}}}},
          {"codeActionProvider", {{"codeActionKinds", {"quickfix"}}}},
          {"codeLensProvider", {{"resolveProvider", false}}},
          {"executeCommandProvider", {{"commands", {run_case_command, draw_command}}}},
          {"semanticTokensProvider",
           {{"legend",
             {{"tokenTypes",
               {"keyword", "macro", "function", "property", "method", "type", "enumMember",
                "variable", "string", "comment"}},
              {"tokenModifiers", {"definition"}}}},
            {"full", true}}}};
}

}  // namespace

LanguageServer::LanguageServer(const LoadOptions& limits, Send send)
    : send_(std::move(send)),
      workspace_(limits, [this](const std::string& uri) { publish(uri); }) {}

void LanguageServer::answer(const Json& id, Answer answer) {
  Json message = {{"jsonrpc", "2.0"}, {"id", id}};
  if (answer.error.is_object()) {
    message["error"] = std::move(answer.error);
  } else {
    message["result"] = std::move(answer.result);
  }
  send_(message);
}

void LanguageServer::receive(const std::string& text) {
  const Json message = Json::parse(text, nullptr, false);
  if (message.is_discarded()) {
    return answer(nullptr, {{}, error(parse_error, "the message is no JSON")});
  }
  const bool has_id = message.is_object() && message.contains("id");
  const Json id = has_id ? message["id"] : Json();
  const std::string method = text_in(message, "method");
  if (method.empty()) {
    // An answer to a request of ours needs none.
    const bool is_answer = has_id && (message.contains("result") || message.contains("error"));
    if (!is_answer) answer(id, {{}, error(invalid_request, "the message names no method")});
    return;
  }
  const Json& parameters = member(message, "params");
  if (!has_id) return notify(method, parameters);
  if (!initialized_ && method != "initialize") {
    return answer(id, {{}, error(not_initialized, "the first request is initialize")});
  }
  if (shut_down_)
    return answer(id, {{}, error(invalid_request, "after shutdown only exit is taken")});
  bool later = false;
  Answer result = request(method, parameters, id, later);
  if (!later) answer(id, std::move(result));
}

Json LanguageServer::initialize(const Json& parameters) {
  initialized_ = true;
  const Json& client = member(parameters, "capabilities");
  const Json& encodings = member(member(client, "general"), "positionEncodings");
  const auto offers = [&](const char* name) {
    return encodings.is_array() && std::ranges::find(encodings, Json(name)) != encodings.end();
  };
  if (offers("utf-8")) {
    units_ = Units::utf8;
  } else if (offers("utf-32") && !offers("utf-16")) {
    units_ = Units::utf32;
  }
  const Json& refresh = member(member(member(client, "workspace"), "codeLens"), "refreshSupport");
  refreshes_lenses_ = refresh.is_boolean() && refresh.get<bool>();
  return {{"capabilities", capabilities(units_)},
          {"serverInfo", {{"name", "orchard language-server"}, {"version", ORCHARD_VERSION}}}};
}

LanguageServer::Answer LanguageServer::request(const std::string& method, const Json& parameters,
                                               const Json& id, bool& later) {
  if (method == "initialize") {
    if (initialized_) return {{}, error(invalid_request, "initialize was sent already")};
    return {initialize(parameters), {}};
  }
  if (method == "shutdown") {
    shut_down_ = true;
    return {};
  }
  if (method == "workspace/executeCommand") {
    later = true;
    run_command(parameters, id);
    return {};
  }
  return ask(method, parameters);
}

// What is asked of one text.
LanguageServer::Answer LanguageServer::ask(const std::string& method, const Json& parameters) {
  constexpr std::string_view prefix = "textDocument/";
  const std::string_view what = method.starts_with(prefix)
                                    ? std::string_view(method).substr(prefix.size())
                                    : std::string_view();
  constexpr std::array of_text{"documentSymbol", "foldingRange",        "formatting",
                               "codeLens",       "semanticTokens/full", "codeAction"};
  constexpr std::array of_spot{"hover",      "definition",    "references", "documentHighlight",
                               "completion", "prepareRename", "rename"};
  const bool needs_spot = std::ranges::find(of_spot, what) != of_spot.end();
  if (!needs_spot && std::ranges::find(of_text, what) == of_text.end()) {
    return {{}, error(method_not_found, "there is no method " + method)};
  }
  const std::string uri = text_in(member(parameters, "textDocument"), "uri");
  const auto sight = workspace_.sight(uri);
  if (!sight) return {{}, error(invalid_parameters, "this text is not open: " + uri)};
  const Answers answers(*sight, units_);
  if (!needs_spot) {
    if (what == "documentSymbol") return {answers.symbols(), {}};
    if (what == "foldingRange") return {answers.folds(), {}};
    if (what == "formatting") return {answers.formatted(), {}};
    if (what == "codeLens") return {answers.lenses(), {}};
    if (what == "semanticTokens/full") return {answers.tokens(), {}};
    const Json& range = member(parameters, "range");
    const auto begin = spot_in(member(range, "start"));
    const auto end = spot_in(member(range, "end"));
    if (!begin || !end) return {{}, error(invalid_parameters, "a range was expected")};
    return {
        answers.fixes(sight->document.offset(*begin, units_), sight->document.offset(*end, units_)),
        {}};
  }
  const auto spot = spot_in(member(parameters, "position"));
  if (!spot) return {{}, error(invalid_parameters, "a position was expected")};
  if (what == "hover") return {answers.hover(*spot), {}};
  if (what == "definition") return {answers.definition(*spot), {}};
  if (what == "documentHighlight") return {answers.highlights(*spot), {}};
  if (what == "completion") return {answers.completion(*spot), {}};
  if (what == "prepareRename") return {answers.can_be_renamed(*spot), {}};
  const std::vector<Sight> companions = workspace_.companions(uri);
  if (what == "references") {
    const Json& with = member(member(parameters, "context"), "includeDeclaration");
    return {answers.references(*spot, !with.is_boolean() || with.get<bool>(), companions), {}};
  }
  auto renaming = answers.renaming(*spot, text_in(parameters, "newName"), companions);
  if (!renaming.fault.empty()) return {{}, error(request_failed, renaming.fault)};
  return {std::move(renaming.changes), {}};
}

void LanguageServer::change(const Json& parameters) {
  const Json& text_document = member(parameters, "textDocument");
  const std::string uri = text_in(text_document, "uri");
  const auto sight = workspace_.sight(uri);
  if (!sight) return;
  Document document = sight->document;
  const Json& changes = member(parameters, "contentChanges");
  if (!changes.is_array()) return;
  for (const Json& one : changes) {
    const std::string text = text_in(one, "text");
    const Json& range = member(one, "range");
    const auto begin = spot_in(member(range, "start"));
    const auto end = spot_in(member(range, "end"));
    if (begin && end) {
      document.replace(document.offset(*begin, units_), document.offset(*end, units_), text);
    } else {
      document = Document(text);
    }
  }
  const Json& version = member(text_document, "version");
  workspace_.set(uri, std::move(document),
                 version.is_number_integer() ? version.get<std::int64_t>() : 0);
}

void LanguageServer::notify(const std::string& method, const Json& parameters) {
  if (method == "exit") {
    ended_ = true;
    return;
  }
  if (!initialized_ || shut_down_) return;
  const Json& text_document = member(parameters, "textDocument");
  const std::string uri = text_in(text_document, "uri");
  if (method == "textDocument/didOpen") {
    const Json& version = member(text_document, "version");
    workspace_.open(uri, text_in(text_document, "text"),
                    version.is_number_integer() ? version.get<std::int64_t>() : 0);
  } else if (method == "textDocument/didChange") {
    change(parameters);
  } else if (method == "textDocument/didClose") {
    workspace_.close(uri);
    const std::lock_guard lock(published_mutex_);
    published_.erase(uri);
    // What is closed has nothing underlined any more.
    send_({{"jsonrpc", "2.0"},
           {"method", "textDocument/publishDiagnostics"},
           {"params", {{"uri", uri}, {"diagnostics", Json::array()}}}});
  } else if (method == "textDocument/didSave" || method == "workspace/didChangeWatchedFiles") {
    workspace_.files_changed();
  }
}

void LanguageServer::publish(const std::string& uri) {
  const auto sight = workspace_.sight(uri);
  // What is known of an older text comes too late: the next look tells.
  if (!sight || !sight->is_known()) return;
  const Json parameters = {{"uri", uri},
                           {"version", sight->version},
                           {"diagnostics", Answers(*sight, units_).diagnostics()}};
  {
    const std::lock_guard lock(published_mutex_);
    Json& before = published_[uri];
    if (before != parameters) {
      before = parameters;
      send_({{"jsonrpc", "2.0"},
             {"method", "textDocument/publishDiagnostics"},
             {"params", parameters}});
    }
  }
  if (refreshes_lenses_ && sight->names->paper() != Paper::rules) {
    send_({{"jsonrpc", "2.0"},
           {"id", fmt::format("orchard-{}", ++asked_)},
           {"method", "workspace/codeLens/refresh"}});
  }
}

LanguageServer::Answer LanguageServer::outcome_of_command(const std::string& command,
                                                          const std::string& uri,
                                                          const std::string& name) {
  const auto sight = workspace_.sight(uri);
  if (!sight) return {{}, error(invalid_parameters, "this text is not open: " + uri)};
  const std::shared_ptr<const Reading> reading =
      sight->knowledge == nullptr ? nullptr : sight->knowledge->reading;
  if (reading == nullptr || !reading->game) {
    return {{}, error(request_failed, "the description does not read")};
  }
  const Picture& picture = reading->picture();
  if (command == draw_command && name.empty()) {
    return {
        {{"text", picture.text(picture::frame_of(*reading->game, reading->game->initial(), {}))}},
        {}};
  }
  CaseOptions options = reading->case_options();
  std::optional<CaseResult> wanted;
  Budget budget;
  budget.seconds = case_patience;
  const Interruption interruption(budget);
  try {
    options.filter = name;
    const auto results = run_cases_of_text(*reading->game, sight->document.text(), options);
    if (!results) return {{}, error(request_failed, results.diagnostics().items().front().message)};
    for (const CaseResult& one : *results) {
      if (one.name == name) wanted = one;
    }
  } catch (const Interrupted&) {
    return {{}, error(request_failed, fmt::format("not done after {} s", case_patience))};
  }
  if (!wanted) return {{}, error(request_failed, "there is no case called " + name)};
  if (command == draw_command) {
    if (!wanted->position) return {{}, error(request_failed, "the case comes to no position")};
    return {{{"text", picture.text(picture::frame_of(*reading->game, *wanted->position, {}))}}, {}};
  }
  std::string text =
      wanted->passed() ? fmt::format("\"{}\" passes", name) : fmt::format("\"{}\" fails", name);
  for (const CaseFailure& failure : wanted->failures) {
    text += fmt::format("\nline {}: expected {}; {}", failure.place.line, failure.expected,
                        failure.found);
  }
  return {{{"text", text}, {"passed", wanted->passed()}}, {}};
}

// In the background: a case may search for best play.
void LanguageServer::run_command(const Json& parameters, const Json& id) {
  const std::string command = text_in(parameters, "command");
  const Json& arguments = member(parameters, "arguments");
  const auto argument = [&](std::size_t at) {
    return arguments.is_array() && at < arguments.size() && arguments[at].is_string()
               ? arguments[at].get<std::string>()
               : std::string();
  };
  if (command != run_case_command && command != draw_command) {
    return answer(id, {{}, error(invalid_parameters, "there is no command " + command)});
  }
  workspace_.later([this, id, command, uri = argument(0), name = argument(1)] {
    Answer outcome = outcome_of_command(command, uri, name);
    if (outcome.result.is_object()) {
      constexpr int information = 3;
      send_({{"jsonrpc", "2.0"},
             {"method", "window/showMessage"},
             {"params", {{"type", information}, {"message", text_in(outcome.result, "text")}}}});
    }
    answer(id, std::move(outcome));
  });
}

}  // namespace orchard::language_server
