// The command `orchard`: reads the call against the option table and hands it to a command.
#include <fmt/core.h>
#include <CLI/CLI.hpp>

#include <algorithm>
#include <csignal>
#include <cstdio>
#include <filesystem>
#include <new>
#include <sstream>
#include <thread>

#include "base/file.hpp"
#include "base/option_table.hpp"
#include "base/similar.hpp"
#include "cli/call.hpp"
#include "cli/json.hpp"
#include "cli/output.hpp"

namespace orchard::cli {
namespace {

sigset_t interrupts() {
  sigset_t signals{};
  sigemptyset(&signals);
  sigaddset(&signals, SIGINT);
  sigaddset(&signals, SIGTERM);
  return signals;
}

struct CommandEntry {
  std::string_view name;
  Status (*run)(const Call&);
  bool long_running;  // an interrupt asks it to end; else the interrupt ends the process
};

constexpr CommandEntry entries[] = {
    {"show", show, false},        {"why", why, false},
    {"check", check, true},       {"find", find, true},
    {"compare", compare, true},   {"cases", cases, true},
    {"walk", walk, true},         {"census", census, true},
    {"playouts", playouts, true}, {"play", play, false},
    {"series", series, true},     {"solve", solve, true},
    {"learn", learn, true},       {"new", new_game, false},
    {"format", format, false},    {"export", export_game, false},
    {"desk", desk, true},         {"language-server", language_server, true},
    {"serve", serve, true},       {"host", host, true},
    {"records", records, true},
};

std::string check_choice(std::string_view choices, const std::string& text) {
  const std::string all = fmt::format("|{}|", choices);
  const bool known = all.find(fmt::format("|{}|", text)) != std::string::npos;
  return known ? "" : fmt::format("{} is not one of {}", text, choices);
}

std::string check_value(const OptionFacts& option, const std::string& text) {
  if (option.kind == OptionFacts::Kind::seconds) {
    char* end = nullptr;
    const double value = std::strtod(text.c_str(), &end);
    // Where there is a wait by itself, 0 is none.
    const bool zero = value == 0 && !option.initial.empty();
    const bool number = end != text.c_str() && *end == '\0' && (value > 0 || zero) && value < 1e12;
    return number ? "" : fmt::format("{} is not a positive number of seconds", text);
  }
  if (option.kind == OptionFacts::Kind::choice) {
    return check_choice(option.value, text);
  }
  if (option.kind != OptionFacts::Kind::number && option.kind != OptionFacts::Kind::bytes)
    return "";
  const bool suffix = option.kind == OptionFacts::Kind::bytes;
  const auto value = parse_bytes(text);
  const bool digits = text.find_first_not_of("0123456789") == std::string::npos;
  if (!value || (!suffix && !digits)) return fmt::format("{} is not a whole number", text);
  if (*value >= option.least && *value <= option.most) return "";
  if (option.most == ~std::uint64_t{0}) {
    return fmt::format("{} is too small; the least is {}", text, option.least);
  }
  return fmt::format("{} is out of range; allowed are {} to {}", text, option.least, option.most);
}

void add_option(CLI::App& command, const OptionFacts& option, Call& call) {
  const std::string name = fmt::format("--{}", option.name);
  const std::string key(option.name);
  std::string help(option.help);
  if (!option.initial.empty()) help += fmt::format(" [{}]", option.initial);
  if (option.kind == OptionFacts::Kind::flag) {
    command.add_flag_callback(
        name, [&call, key] { call.values[key]; }, help);
    return;
  }
  CLI::Option* added = command.add_option_function<std::vector<std::string>>(
      name, [&call, key](const std::vector<std::string>& values) { call.values[key] = values; },
      help);
  added->type_name(std::string(option.value))->check([&option](const std::string& text) {
    return check_value(option, text);
  });
  added->expected(1)->allow_extra_args(false);  // what stands behind the value is no second one
  added->multi_option_policy(option.kind == OptionFacts::Kind::repeated_text
                                 ? CLI::MultiOptionPolicy::TakeAll
                                 : CLI::MultiOptionPolicy::TakeLast);
}

void describe(CLI::App& app, Call& call) {
  app.require_subcommand(1);
  app.set_version_flag("--version", "orchard " ORCHARD_VERSION);
  app.footer("orchard help COMMAND describes a command and its options.");
  for (const CommandFacts& facts : command_table()) {
    CLI::App* command = app.add_subcommand(std::string(facts.name), std::string(facts.summary));
    command->footer(std::string(facts.details));
    if (!facts.form.empty()) {
      const std::string key = "form";
      const std::string_view forms = facts.form;
      command
          ->add_option_function<std::string>(
              "FORM", [&call, key](const std::string& value) { call.values[key] = {value}; },
              std::string(forms))
          ->required()
          ->check([forms](const std::string& text) { return check_choice(forms, text); });
    }
    constexpr std::string_view several = "…";
    if (facts.arguments.ends_with(several)) {
      const std::string_view one =
          facts.arguments.substr(0, facts.arguments.size() - several.size());
      command
          ->add_option_function<std::vector<std::string>>(
              std::string(one),
              [&call](const std::vector<std::string>& given) { call.values["arguments"] = given; },
              "files, or folders of them")
          ->required();
    } else if (!facts.arguments.empty()) {
      const bool optional = facts.arguments.starts_with('[');
      const std::string_view name =
          optional ? facts.arguments.substr(1, facts.arguments.size() - 2) : facts.arguments;
      command
          ->add_option(std::string(name), call.game,
                       name == "GAME" ? "a game description (.gdl)" : "of the game")
          ->required(!optional);
    }
    if (!facts.more.empty()) {
      // In brackets what may be left out.
      const bool optional = facts.more.starts_with('[');
      const std::string name(optional ? facts.more.substr(1, facts.more.size() - 2) : facts.more);
      command
          ->add_option_function<std::string>(
              name, [&call](const std::string& value) { call.values["question"] = {value}; })
          ->required(!optional);
    }
    for (const OptionFacts& option : option_table()) {
      if (option.belongs_to(facts.name)) add_option(*command, option, call);
    }
  }
}

// Turns interrupts, which are blocked, into stop requests while a long command runs. Another one a
// second later or more ends the process; before, it is the same request: whoever sets limits of
// time from outside sends its signal to the process and to its group.
class InterruptWatch {
 public:
  explicit InterruptWatch(std::stop_source& source) : signals_(interrupts()) {
    watcher_ = std::jthread([this, &source](const std::stop_token& over) {
      constexpr timespec patience{0, 50'000'000};
      using std::chrono::steady_clock;
      std::optional<steady_clock::time_point> first;
      while (!over.stop_requested()) {
        if (sigtimedwait(&signals_, nullptr, &patience) <= 0) continue;
        if (first && steady_clock::now() - *first >= std::chrono::seconds(1)) {
          std::_Exit(static_cast<int>(Status::unfinished));
        }
        if (!first) first = steady_clock::now();
        source.request_stop();
      }
    });
  }

 private:
  sigset_t signals_;
  std::jthread watcher_;
};

// Goes on after an interrupt, with what there is to say.
Status run_long(const CommandEntry& entry, Call& call) {
  std::stop_source source;
  const InterruptWatch watch(source);
  call.stop = source.get_token();
  Budget whole;  // reading the rules counts, too
  whole.stop = call.stop;
  if (!call.flag("watch")) whole.seconds = call.budget().seconds;
  const Interruption interruption(whole);
  std::optional<FileLock> lock;
  if (const auto checkpoint = call.budget().checkpoint) {
    std::error_code error;  // taking the lock says what is wrong
    std::filesystem::create_directories(checkpoint->folder, error);
    auto taken = FileLock::take((std::filesystem::path(checkpoint->folder) / "explored").string(),
                                "wait until it has ended, or name another folder");
    if (!taken) return report(call, taken.diagnostics());
    lock.emplace(std::move(taken).value());
  }
  return entry.run(call);
}

Status run(Call& call) {
  const auto* entry = std::ranges::find(entries, call.command, &CommandEntry::name);
  if (Diagnostics faults = unusable_outputs(call); !faults.empty()) return report(call, faults);
  try {
    if (entry->long_running) return run_long(*entry, call);
    const sigset_t signals = interrupts();
    pthread_sigmask(SIG_UNBLOCK, &signals, nullptr);
    return entry->run(call);
  } catch (const Interrupted& interrupted) {  // by time, a signal or the guard of memory
    return report(call, interrupted);
  }
}

std::vector<std::string> command_names() {
  std::vector<std::string> names;
  for (const CommandFacts& facts : command_table()) names.emplace_back(facts.name);
  return names;
}

// Why the word after `orchard` is not a command, if it is none.
std::optional<Diagnostic> unknown_command(const std::vector<std::string>& words) {
  if (words.empty() || words[0].starts_with('-')) return std::nullopt;
  std::vector<std::string> names = command_names();
  names.emplace_back("help");
  if (std::ranges::find(names, words[0]) != names.end()) return std::nullopt;
  const auto meant = most_similar(words[0], names);
  return plain_error("wrong-call", fmt::format("there is no command {}", words[0]),
                     meant ? fmt::format("did you mean {}?", *meant) : "orchard help lists them");
}

// Which word is not an option of the command, if there is one, and what was probably meant.
std::optional<Diagnostic> unknown_option(const std::vector<std::string>& words) {
  if (words.empty()) return std::nullopt;
  const std::string& command = words[0];
  std::vector<std::string> own{"help"};
  for (const OptionFacts& option : option_table()) {
    if (option.belongs_to(command)) own.emplace_back(option.name);
  }
  for (const std::string& word : words) {
    if (!word.starts_with("--") || word.size() < 3) continue;
    const std::string name = word.substr(2, word.find('=') - 2);
    if (std::ranges::find(own, name) != own.end()) continue;
    const auto meant = most_similar(name, own);
    std::string others;
    for (const CommandFacts& facts : command_table()) {
      const auto has = [&](const OptionFacts& option) {
        return option.name == name && option.belongs_to(facts.name);
      };
      if (!std::ranges::any_of(option_table(), has)) continue;
      others += fmt::format("{}{}", others.empty() ? "" : ", ", facts.name);
    }
    return plain_error("wrong-call", fmt::format("{} has no option --{}", command, name),
                       !others.empty() ? fmt::format("it is an option of {}", others)
                       : meant         ? fmt::format("did you mean --{}?", *meant)
                                       : fmt::format("orchard help {} lists the options", command));
  }
  return std::nullopt;
}

// Of words that the command has no use for, the first. Who plays is often given so.
std::optional<Diagnostic> word_too_many(const std::string& command,
                                        const std::vector<std::string>& words) {
  if (command.empty() || words.empty()) return std::nullopt;
  std::string remedy;
  for (const char* name : {"player", "seat"}) {
    const auto has = [&](const OptionFacts& option) {
      return option.name == name && option.belongs_to(command);
    };
    if (!std::ranges::any_of(option_table(), has)) continue;
    remedy += fmt::format("{}--{}", remedy.empty() ? "who plays: " : " or ", name);
  }
  if (!remedy.empty()) remedy += "; ";
  return plain_error("wrong-call",
                     fmt::format("{} has no use for the word {}", command, words.front()),
                     fmt::format("{}orchard help {} shows how to call it", remedy, command));
}

Status wrong_call(const Call& call, const CLI::ParseError& fault, const CLI::App& app,
                  const std::vector<std::string>& words) {
  const std::string command = call.command.empty() ? "" : " " + call.command;
  std::optional<Diagnostic> diagnostic = unknown_command(words);
  if (!diagnostic) diagnostic = unknown_option(words);
  if (!diagnostic && dynamic_cast<const CLI::ExtrasError*>(&fault) != nullptr) {
    diagnostic = word_too_many(call.command, app.remaining(true));
  }
  if (!diagnostic) {
    diagnostic = plain_error("wrong-call", fault.what(),
                             fmt::format("orchard help{} shows how to call it", command));
  }
  return report(call, *diagnostic);
}

// `help` and `help COMMAND` are --help. Of `help` with a word that is no command nothing is left
// but that word, which is then refused like any other.
void put_help_into_its_form(std::vector<std::string>& words) {
  if (words.empty() || words[0] != "help") return;
  words.erase(words.begin());
  words.resize(std::min<std::size_t>(words.size(), 1));
  if (!unknown_command(words)) words.emplace_back("--help");
}

int main_body(std::vector<std::string> words) {
  Call call;
  CLI::App app{"Turn-based games derived from their rules.", "orchard"};
  describe(app, call);
  put_help_into_its_form(words);
  try {
    app.parse(std::vector<std::string>(words.rbegin(), words.rend()));  // the last word first
  } catch (const CLI::Success& help) {
    std::ostringstream text;
    const int status = app.exit(help, text, text);
    write_out(text.str());
    return status;
  } catch (const CLI::ParseError& fault) {
    for (const CLI::App* command : app.get_subcommands()) call.command = command->get_name();
    if (std::ranges::find(words, "--json") != words.end()) call.values["json"];
    return static_cast<int>(wrong_call(call, fault, app, words));
  }
  call.command = app.get_subcommands().front()->get_name();
  return static_cast<int>(run(call));
}

}  // namespace
}  // namespace orchard::cli

namespace {

using namespace orchard::cli;

int run_safely(int argc, char** argv) {
  try {
    return main_body({argv + 1, argv + argc});
  } catch (const std::bad_alloc&) {
    remark("orchard: out of memory\n");
  } catch (const std::exception& fault) {
    remark("orchard: internal error: {}\nPlease report this with the call and the file.\n",
           fault.what());
  }
  return static_cast<int>(Status::unfinished);
}

}  // namespace

int main(int argc, char** argv) {
  open_missing_streams();
  orchard::guard_memory(static_cast<int>(Status::unfinished));
  // Until it is known whether the command goes on after an interrupt.
  const sigset_t signals = interrupts();
  pthread_sigmask(SIG_BLOCK, &signals, nullptr);
  (void)std::signal(SIGXFSZ, SIG_IGN);  // writing fails instead, which is told
  const int status = run_safely(argc, argv);
  const auto fault = output_fault();
  if (!fault) return status;
  remark("error: cannot write the output: {} [cannot-write]\n   remedy: check where it goes to\n",
         *fault);
  return static_cast<int>(Status::wrong_call);
}
