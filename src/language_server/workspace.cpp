#include "language_server/workspace.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <array>
#include <filesystem>

#include "base/interruption.hpp"
#include "orchard/cases.hpp"
#include "orchard/review.hpp"

namespace orchard::language_server {

namespace {

constexpr double patience = 3;  // seconds for the cases of a text, and for its claims
constexpr std::array<std::string_view, 2> rules_endings{".gdl", ".gdli"};
constexpr std::array<std::string_view, 6> endings{".gdl",    ".gdli", ".cases",
                                                  ".claims", ".draw", ".positions"};

std::string stem_of(const std::string& path) {
  for (const std::string_view ending : endings) {
    if (path.ends_with(ending)) return path.substr(0, path.size() - ending.size());
  }
  return path;
}

bool is_hex(char c) {
  return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'f') || (c >= 'A' && c <= 'F');
}

Diagnostics in_file(const Diagnostics& diagnostics, const std::string& path) {
  Diagnostics result;
  for (Diagnostic diagnostic : diagnostics) {
    diagnostic.place.file = path;
    result.add(std::move(diagnostic));
  }
  return result;
}

Diagnostic fault_at(Place place, const std::string& path, std::string code, std::string message) {
  Diagnostic diagnostic = plain_error(std::move(code), std::move(message));
  diagnostic.place = std::move(place);
  diagnostic.place.file = path;
  return diagnostic;
}

void run_cases(const Reading& reading, const std::string& path, const std::string& text,
               const std::stop_token& stop, Knowledge& knowledge) {
  std::vector<Outcome>& outcomes = knowledge.outcomes[path];
  Diagnostics& findings = knowledge.findings[path];
  const CaseOptions options = reading.case_options();
  const auto note = [&](const CaseResult& result) {
    Outcome outcome{result.name, result.passed(), true, "passes"};
    for (const CaseFailure& failure : result.failures) {
      outcome.words = fmt::format("expected {}; {}", failure.expected, failure.found);
      findings.add(fault_at(failure.place, path, "failed-case",
                            fmt::format("\"{}\": {}", result.name, outcome.words)));
    }
    outcomes.push_back(std::move(outcome));
  };
  Budget budget;
  budget.seconds = patience;
  budget.stop = stop;
  const Interruption interruption(budget);
  try {
    const auto results = run_cases_of_text(*reading.game, text, options, note);
    if (!results) findings.append(in_file(results.diagnostics(), path));
  } catch (const Interrupted&) {
    // What was not run has no outcome.
  }
}

// Where a claim of that name stands.
Place place_called(const Names& names, const std::string& name) {
  for (const editing::Name& one : names.all()) {
    if (one.sort == editing::Sort::text && one.name == name) {
      return names.source().place(one.begin, one.end);
    }
  }
  return {};
}

void ask_claims(const Reading& reading, const std::string& path, const std::string& text,
                const std::stop_token& stop, Knowledge& knowledge) {
  ReviewOptions options;
  options.budget.seconds = patience;
  options.budget.stop = stop;
  options.claims_text = text;
  const auto review = review_rules(*reading.game, options);
  if (!review) {
    knowledge.findings[path].append(in_file(review.diagnostics(), path));
    return;
  }
  if (!review->not_asked.empty()) return;
  const Names names(syntax::Source(path, text));
  for (const Answer& claim : review->claims) {
    const bool holds = claim.verdict == Verdict::holds;
    const bool decided = claim.verdict != Verdict::unknown;
    knowledge.outcomes[path].push_back(
        {claim.id, holds, decided,
         decided ? fmt::format("{}: {}", holds ? "holds" : "fails", claim.evidence.text())
                 : fmt::format("not decided in {} s", patience)});
    if (holds || !decided) continue;
    knowledge.findings[path].add(
        fault_at(place_called(names, claim.id), path, "failed-claim",
                 fmt::format("\"{}\" fails: {}", claim.id, claim.evidence.text())));
  }
}

}  // namespace

bool Sight::is_known() const {
  if (knowledge == nullptr) return false;
  const auto text = knowledge->texts.find(path);
  return text != knowledge->texts.end() && text->second == document.text();
}

std::string path_of(const std::string& uri) {
  constexpr std::string_view scheme = "file://";
  if (!uri.starts_with(scheme)) return uri;
  std::string path;
  for (std::size_t at = uri.find('/', scheme.size()); at < uri.size(); ++at) {
    if (uri[at] == '%' && at + 2 < uri.size() && is_hex(uri[at + 1]) && is_hex(uri[at + 2])) {
      path += static_cast<char>(std::stoi(uri.substr(at + 1, 2), nullptr, 16));
      at += 2;
    } else {
      path += uri[at];
    }
  }
  return path;
}

std::string uri_of(const std::string& path) {
  if (!path.starts_with('/')) return path;
  std::string uri = "file://";
  for (const char c : path) {
    const bool plain = (c >= '0' && c <= '9') || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') ||
                       std::string_view("/-._~").find(c) != std::string_view::npos;
    if (plain) {
      uri += c;
    } else {
      uri += fmt::format("%{:02X}", static_cast<unsigned char>(c));
    }
  }
  return uri;
}

Workspace::Workspace(LoadOptions limits, Told told)
    : limits_(std::move(limits)),
      told_(std::move(told)),
      worker_([this](const std::stop_token& stop) { work(stop); }) {}

Workspace::~Workspace() {
  {
    const std::lock_guard lock(mutex_);
    giving_up_.request_stop();
  }
  worker_.request_stop();
}

// With the lock held.
void Workspace::changed(const std::string& stem) {
  dirty_.insert(stem);
  if (busy_ == stem) giving_up_.request_stop();
  wakes_.notify_all();
}

void Workspace::open(const std::string& uri, std::string text, std::int64_t version) {
  set(uri, Document(std::move(text)), version);
}

void Workspace::set(const std::string& uri, Document document, std::int64_t version) {
  const std::lock_guard lock(mutex_);
  const std::string path = path_of(uri);
  open_.insert_or_assign(uri, Open{std::move(document), version, path});
  changed(stem_of(path));
}

void Workspace::close(const std::string& uri) {
  const std::lock_guard lock(mutex_);
  open_.erase(uri);
  const std::string path = path_of(uri);
  names_.erase(path);
  changed(stem_of(path));  // what counts now is the file
}

void Workspace::files_changed() {
  const std::lock_guard lock(mutex_);
  for (const auto& [uri, open] : open_) changed(stem_of(open.path));
}

void Workspace::later(std::function<void()> work) {
  const std::lock_guard lock(mutex_);
  jobs_.push_back(std::move(work));
  wakes_.notify_all();
}

// With the lock held, as the following ones: what an editor shows, else what is in the file.
std::optional<std::string> Workspace::text_at(const std::string& path) const {
  for (const auto& [uri, open] : open_) {
    if (open.path == path) return open.document.text();
  }
  std::error_code fault;
  if (!path.starts_with('/') || !std::filesystem::is_regular_file(path, fault)) return std::nullopt;
  const auto source = syntax::Source::from_file(path);
  return source ? std::optional(std::string(source->text())) : std::nullopt;
}

Workspace::Texts Workspace::texts_of(const std::string& stem) const {
  Texts texts;
  for (const std::string_view ending : endings) {
    const std::string path = stem + std::string(ending);
    if (auto text = text_at(path)) texts.emplace(path, std::move(*text));
  }
  // A text whose name has none of the endings is taken for rules.
  if (auto text = text_at(stem)) texts.emplace(stem, std::move(*text));
  return texts;
}

namespace {

// Of the texts of a game, its rules; empty if there are none.
std::string rules_path(const std::map<std::string, std::string>& texts, const std::string& stem) {
  for (const std::string_view ending : rules_endings) {
    if (texts.contains(stem + std::string(ending))) return stem + std::string(ending);
  }
  return texts.contains(stem) ? stem : std::string();
}

}  // namespace

std::shared_ptr<const Names> Workspace::names_of(const std::string& path, const std::string& text,
                                                 std::shared_ptr<const Names> rules) const {
  // What names are in cases hangs on the rules, too.
  const std::string key =
      rules == nullptr ? text : text + '\0' + std::string(rules->source().text());
  auto& [known_text, names] = names_[path];
  if (names == nullptr || known_text != key) {
    known_text = key;
    names = std::make_shared<const Names>(syntax::Source(path, text), rules.get());
  }
  return names;
}

Sight Workspace::sight_of(const std::string& path, Document document, std::int64_t version) const {
  const std::string stem = stem_of(path);
  Sight sight{std::move(document), version, path, nullptr, nullptr, nullptr};
  if (editing::paper_of(path) == Paper::rules) {
    sight.names = sight.rules = names_of(path, sight.document.text(), nullptr);
  } else {
    const Texts texts = texts_of(stem);
    const std::string rules = rules_path(texts, stem);
    if (!rules.empty()) sight.rules = names_of(rules, texts.at(rules), nullptr);
    sight.names = names_of(path, sight.document.text(), sight.rules);
  }
  const auto game = games_.find(stem);
  if (game != games_.end()) sight.knowledge = game->second.knowledge;
  return sight;
}

std::optional<Sight> Workspace::sight(const std::string& uri) const {
  const std::lock_guard lock(mutex_);
  const auto open = open_.find(uri);
  if (open == open_.end()) return std::nullopt;
  return sight_of(open->second.path, open->second.document, open->second.version);
}

std::vector<Sight> Workspace::companions(const std::string& uri) const {
  const std::lock_guard lock(mutex_);
  const std::string path = path_of(uri);
  std::vector<Sight> result;
  for (const auto& [other, text] : texts_of(stem_of(path))) {
    if (other == path) continue;
    std::int64_t version = -1;
    for (const auto& [its_uri, open] : open_) {
      if (open.path == other) version = open.version;
    }
    result.push_back(sight_of(other, Document(text), version));
  }
  return result;
}

Workspace::Game& Workspace::game_of(const std::string& stem) {
  return games_[stem];
}

void Workspace::publish(const std::string& stem, std::shared_ptr<const Knowledge> knowledge) {
  std::vector<std::string> told;
  {
    const std::lock_guard lock(mutex_);
    game_of(stem).knowledge = std::move(knowledge);
    for (const auto& [uri, open] : open_) {
      if (stem_of(open.path) == stem) told.push_back(uri);
    }
  }
  for (const std::string& uri : told) told_(uri);
}

// Reads the rules of a game, and tells what is wrong; then cases, then claims.
void Workspace::look(const std::string& stem, const std::stop_token& stop) {
  Texts texts;
  editing::Shelf* shelf = nullptr;
  std::string rules;
  std::shared_ptr<const Reading> last_good;
  {
    const std::lock_guard lock(mutex_);
    texts = texts_of(stem);
    rules = rules_path(texts, stem);
    if (rules.empty()) return;
    Game& game = game_of(stem);
    if (game.shelf == nullptr || game.rules_path != rules) {
      game.shelf = std::make_unique<editing::Shelf>(rules, limits_);
      game.rules_path = rules;
    }
    shelf = game.shelf.get();
    if (game.knowledge != nullptr) last_good = game.knowledge->last_good;
  }
  const std::string drawing = stem + ".draw";
  const auto has = [&](const std::string& path) { return texts.contains(path); };
  editing::Sheet sheet{texts.at(rules), has(drawing) ? texts.at(drawing) : std::string(), {}};
  auto knowledge = std::make_shared<Knowledge>();
  knowledge->reading = shelf->read(sheet, stop);
  if (stop.stop_requested()) return;
  knowledge->texts = texts;
  knowledge->last_good = knowledge->reading->game ? knowledge->reading : last_good;
  knowledge->findings[rules] = knowledge->reading->findings;
  if (has(drawing)) {
    knowledge->findings[drawing] = in_file(knowledge->reading->drawing_findings, drawing);
  }
  publish(stem, knowledge);
  if (!knowledge->reading->game) return;
  const auto go_on = [&](const char* ending, auto&& run) {
    const std::string path = stem + ending;
    if (!has(path) || stop.stop_requested()) return;
    auto more = std::make_shared<Knowledge>(*knowledge);
    run(*more->reading, path, texts.at(path), stop, *more);
    if (stop.stop_requested()) return;
    knowledge = more;
    publish(stem, more);
  };
  go_on(".cases", run_cases);
  go_on(".claims", ask_claims);
}

void Workspace::work(const std::stop_token& stop) {
  while (!stop.stop_requested()) {
    std::unique_lock lock(mutex_);
    wakes_.wait(lock, stop, [this] { return !dirty_.empty() || !jobs_.empty(); });
    if (stop.stop_requested()) return;
    if (dirty_.empty()) {
      const std::function<void()> job = std::move(jobs_.front());
      jobs_.pop_front();
      lock.unlock();
      job();
      continue;
    }
    busy_ = *dirty_.begin();
    dirty_.erase(busy_);
    const std::string stem = busy_;
    giving_up_ = std::stop_source();
    const std::stop_token giving_up = giving_up_.get_token();
    lock.unlock();
    try {
      look(stem, giving_up);
    } catch (const Interrupted&) {
      // Memory is short: what was known stays.
    }
    lock.lock();
    busy_.clear();
  }
}

}  // namespace orchard::language_server
