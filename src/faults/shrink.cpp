#include "orchard/shrink.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <set>
#include <utility>

#include "base/interruption.hpp"
#include "orchard/cases.hpp"
#include "orchard/format.hpp"
#include "orchard/review.hpp"
#include "syntax/reader.hpp"

namespace orchard {
namespace {

using syntax::NodeIndex;
using syntax::Tree;

// A stretch of a text.
struct Part {
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
};

Tree tree_of(const std::string& text) {
  Diagnostics ignored;
  return syntax::read(syntax::Source("shrunk", text), {}, ignored);
}

std::string without(std::string text, std::span<const Part> parts) {  // in the order of the text
  for (std::size_t p = parts.size(); p-- > 0;) {
    text.erase(parts[p].begin, parts[p].end - parts[p].begin);
  }
  return text;
}

class Shrinker {
 public:
  Shrinker(std::string text, const std::function<bool(const std::string&)>& fails,
           const std::function<bool()>& goes_on)
      : text_(std::move(text)), fails_(fails), goes_on_(goes_on) {}

  std::string run() {
    for (bool smaller = true; smaller && goes_on();) {
      smaller = leave_out_forms();
      smaller = leave_out_inner() || smaller;
      smaller = lower_sizes() || smaller;
    }
    return std::move(text_);
  }

 private:
  bool goes_on() const { return !goes_on_ || goes_on_(); }
  bool take(std::string candidate) {
    if (!fails_(candidate)) return false;
    text_ = std::move(candidate);
    return true;
  }

  std::vector<Part> forms() const {
    const Tree tree = tree_of(text_);
    std::vector<Part> parts;
    for (const NodeIndex form : tree.forms()) parts.push_back({tree[form].begin, tree[form].end});
    return parts;
  }

  // Many at once first: half of them, a quarter …
  bool leave_out_forms() {
    bool smaller = false;
    for (std::size_t size = std::max<std::size_t>(1, forms().size() / 2); size > 0; size /= 2) {
      for (std::size_t first = 0; goes_on();) {
        const std::vector<Part> parts = forms();
        if (first >= parts.size()) break;
        const std::size_t count = std::min(size, parts.size() - first);
        if (take(without(text_, std::span(parts).subspan(first, count)))) {
          smaller = true;
        } else {
          first += count;
        }
      }
    }
    return smaller;
  }

  // Conditions of rules, and forms within directives: what stands one level further in, behind the
  // head; and ways of an `or`.
  bool leave_out_inner() {
    bool smaller = false;
    for (std::size_t next = 0; goes_on();) {
      const std::vector<Part> parts = inner();
      if (next >= parts.size()) break;
      if (take(without(text_, std::span(parts).subspan(next, 1)))) {
        smaller = true;
      } else {
        ++next;
      }
    }
    return smaller;
  }
  std::vector<Part> inner() const {
    const Tree tree = tree_of(text_);
    std::vector<Part> parts;
    for (NodeIndex at = 0; at < tree.size(); ++at) {
      const std::string_view head = tree.head(at);
      if (!tree.is_list(at)) continue;
      const std::vector<NodeIndex> children = tree.children(at);
      const std::size_t kept = head == "<=" ? 2 : head == "#for" ? 4 : head == "or" ? 1 : ~0u;
      if (head == "or" && children.size() <= 2) continue;
      for (std::size_t c = kept; c < children.size(); ++c) {
        parts.push_back({tree[children[c]].begin, tree[children[c]].end});
      }
    }
    std::ranges::sort(parts, {}, &Part::begin);
    return parts;
  }

  bool lower_sizes() {
    bool smaller = false;
    for (std::size_t which = 0; goes_on(); ++which) {
      const Tree tree = tree_of(text_);
      std::vector<NodeIndex> sizes;
      for (const NodeIndex form : tree.forms()) {
        const std::vector<NodeIndex> parts = tree.children(form);
        if (tree.head(form) == "#let" && parts.size() == 3) sizes.push_back(parts[2]);
      }
      if (which >= sizes.size()) break;
      const syntax::Node& node = tree[sizes[which]];
      const auto number = Term::constant(node.text).number();
      for (std::int64_t less = 1; number && less < *number; ++less) {
        std::string candidate = text_;
        candidate.replace(node.begin, node.end - node.begin, std::to_string(less));
        if (take(std::move(candidate))) {
          smaller = true;
          break;
        }
      }
    }
    return smaller;
  }

  std::string text_;
  const std::function<bool(const std::string&)>& fails_;
  const std::function<bool()>& goes_on_;
};

// What fails, so that it is known again.
struct Fault {
  enum class Kind { finding, test, question, claim };
  Kind kind = Kind::finding;
  std::string id;
  std::string words{};  // of a case: what was expected and found
  Verdict verdict = Verdict::fails;
};

class FaultFinder {
 public:
  FaultFinder(std::string path, const ShrinkOptions& options)
      : path_(std::move(path)), options_(options) {}

  std::vector<Fault> faults_of(const std::string& text) const;
  // Whether the fault is there, and none of another name than `known`: a description from which too
  // much is missing fails in every way.
  bool has(const std::string& text, const Fault& fault, const std::set<std::string>& known) const;

 private:
  Diagnostics told(const Result<Game>& game) const {
    return game ? game->findings() : game.diagnostics();
  }
  std::vector<Fault> failed_cases(const Game& game, const std::string& name) const;
  // Of all questions and claims, or of `only`, which takes less time.
  std::vector<Fault> failed_answers(const Game& game, const Fault* only = nullptr) const;

  std::string path_;
  const ShrinkOptions& options_;
};

std::vector<Fault> FaultFinder::failed_cases(const Game& game, const std::string& name) const {
  std::vector<Fault> faults;
  if (!options_.cases) return faults;
  CaseOptions options;
  options.filter = name;
  const auto results = run_cases(game, *options_.cases, options);
  if (!results) return faults;
  for (const CaseResult& result : *results) {
    if (result.passed() || (!name.empty() && result.name != name)) continue;
    const CaseFailure& failure = result.failures.front();
    faults.push_back(
        {Fault::Kind::test, result.name, fmt::format("{}: {}", failure.expected, failure.found)});
  }
  return faults;
}

std::vector<Fault> FaultFinder::failed_answers(const Game& game, const Fault* only) const {
  constexpr std::uint64_t usual_positions = 20'000;
  constexpr double most_seconds = 3;
  std::vector<Fault> faults;
  ReviewOptions options;
  options.budget.positions = options_.budget.positions.value_or(usual_positions);
  options.budget.seconds = most_seconds;
  if (only == nullptr || only->kind == Fault::Kind::claim) options.claims = options_.claims;
  if (only != nullptr) {
    options.allow = question_ids();
    std::erase(options.allow, only->id.substr(0, only->id.find(':')));
  }
  auto review = review_rules(game, options);
  if (!review && options.claims) {  // the claims speak of what was left out
    options.claims.reset();
    review = review_rules(game, options);
  }
  if (!review) return faults;
  const auto add = [&](Fault::Kind kind, const std::vector<Answer>& answers) {
    for (const Answer& answer : answers) {
      if (answer.verdict != Verdict::fails && answer.verdict != Verdict::suspicious) continue;
      faults.push_back({kind, answer.id, answer.evidence.finding, answer.verdict});
    }
  };
  add(Fault::Kind::question, review->questions);
  add(Fault::Kind::claim, review->claims);
  return faults;
}

std::vector<Fault> FaultFinder::faults_of(const std::string& text) const {
  const auto game = Game::from_text(text, path_, options_.load);
  std::vector<Fault> faults;
  if (game) {
    for (Fault& fault : failed_cases(*game, {})) faults.push_back(std::move(fault));
    for (Fault& fault : failed_answers(*game)) faults.push_back(std::move(fault));
  }
  for (const Diagnostic& finding : told(game)) {
    faults.push_back({Fault::Kind::finding, finding.code});
  }
  return faults;
}

bool FaultFinder::has(const std::string& text, const Fault& fault,
                      const std::set<std::string>& known) const {
  const auto game = Game::from_text(text, path_, options_.load);
  if (!game && fault.kind != Fault::Kind::finding) return false;
  // What nothing asks for any more goes later, or cannot go.
  const auto is_new = [&](const Diagnostic& finding) {
    return finding.code != "unused-relation" && finding.code != "unread-fluent" &&
           !known.contains(finding.code);
  };
  const Diagnostics findings = told(game);
  if (std::ranges::any_of(findings, is_new)) return false;
  if (fault.kind == Fault::Kind::finding) {
    return std::ranges::any_of(findings,
                               [&](const Diagnostic& other) { return other.code == fault.id; });
  }
  if (fault.kind == Fault::Kind::test) {
    const std::vector<Fault> failed = failed_cases(*game, fault.id);
    return !failed.empty() && failed.front().words == fault.words;
  }
  const auto is_the_fault = [&](const Fault& other) {
    return other.kind == fault.kind && other.id == fault.id && other.words == fault.words &&
           other.verdict == fault.verdict;
  };
  // Most descriptions are refused because the fault is gone.
  if (std::ranges::none_of(failed_answers(*game, &fault), is_the_fault)) return false;
  const std::vector<Fault> all = failed_answers(*game);
  return std::ranges::any_of(all, is_the_fault) &&
         std::ranges::all_of(all, [&](const Fault& other) { return known.contains(other.id); });
}

// The comments by which an author allows what would be told: they are a part of the rules here.
std::string allowances(const std::string& text) {
  constexpr std::string_view mark = "; orchard: allow ";
  std::string result;
  for (std::size_t at = text.find(mark); at != std::string::npos; at = text.find(mark, at + 1)) {
    result += text.substr(at, text.find('\n', at) - at) + "\n";
  }
  return result;
}

std::size_t count_forms(const std::string& text) {
  return tree_of(text).forms().size();
}

Result<Shrunk> shrunk(const std::string& path, const ShrinkOptions& options) {
  auto source = syntax::Source::from_file(path);
  if (!source) return source.diagnostics();
  std::string text(source->text());
  FormatOptions formatting;
  if (path.ends_with(".gdli") || text.find("(#include") != std::string::npos) {
    formatting.expand = true;
    formatting.to = Syntax::prefix;
    formatting.sizes = options.load.sizes;
    auto expanded = format_file(path, formatting);
    if (!expanded) return expanded.diagnostics();
    text = *expanded;
  }
  const std::string allowed = allowances(text);
  text = tree_of(text).canonical_text();
  const FaultFinder finder(path.ends_with(".gdli") ? path.substr(0, path.size() - 1) : path,
                           options);
  const std::vector<Fault> faults = finder.faults_of(allowed + text);
  const auto chosen =
      options.fault.empty() ? faults.begin() : std::ranges::find(faults, options.fault, &Fault::id);
  if (chosen == faults.end()) {
    std::string known;
    for (const Fault& fault : faults) known += (known.empty() ? "" : ", ") + fault.id;
    Diagnostic nothing =
        plain_error("nothing-fails",
                    options.fault.empty() ? "nothing fails here, as far as it was looked at"
                                          : fmt::format("{} does not fail here", options.fault),
                    known.empty() ? "look at more positions, or name a file of cases or claims"
                                  : "what fails: " + known);
    nothing.place.file = path;
    return nothing;
  }
  std::set<std::string> known;
  for (const Fault& fault : faults) known.insert(fault.id);
  Shrunk result;
  result.fault = chosen->id;
  result.forms_before = count_forms(text);
  const auto fails = [&](const std::string& candidate) {
    ++result.tried;
    return finder.has(allowed + candidate, *chosen, known);
  };
  const auto goes_on = [&] {
    if (const auto ending = Interruption::asked()) result.ending = *ending;
    return result.ending == Ending::complete;
  };
  std::string last = text;
  try {
    last = shrink_text(
        last,
        [&](const std::string& candidate) {
          const bool still = fails(candidate);
          if (still) last = candidate;
          return still;
        },
        goes_on);
  } catch (const Interrupted& interrupted) {
    result.ending = interrupted.ending;
  }
  result.forms = count_forms(last);
  const auto laid_out = format_text(last, "shrunk.gdl");
  result.text = allowed + (laid_out ? *laid_out : last);
  return result;
}

}  // namespace

std::string shrink_text(const std::string& text,
                        const std::function<bool(const std::string&)>& fails,
                        const std::function<bool()>& goes_on) {
  const std::string shrunk = Shrinker(text, fails, goes_on).run();
  const auto laid_out = format_text(tree_of(shrunk).canonical_text(), "shrunk.gdl");
  return laid_out ? *laid_out : shrunk;
}

Result<Shrunk> shrink_rules(const std::string& path, const ShrinkOptions& options) {
  const Interruption interruption(options.budget);
  return shrunk(path, options);
}

}  // namespace orchard
