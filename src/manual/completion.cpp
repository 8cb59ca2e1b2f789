#include "manual/completion.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <vector>

#include "base/option_table.hpp"

namespace orchard {
namespace {

using Kind = OptionFacts::Kind;

// What can stand behind an option.
enum class Completes { nothing, files, folders, roles, roles_and_more, choices, unknown };

Completes completes(const OptionFacts& option) {
  if (option.kind == Kind::flag) return Completes::nothing;
  if (option.kind == Kind::choice) return Completes::choices;
  if (option.value == "ROLE") return Completes::roles;
  if (option.value.starts_with("ROLE=")) return Completes::roles_and_more;
  if (option.value == "DIR") return Completes::folders;
  if (option.value.starts_with("FILE")) return Completes::files;
  return Completes::unknown;
}

std::string with_blanks(std::string_view choices) {
  std::string text(choices);
  std::ranges::replace(text, '|', ' ');
  return text;
}

// The options, as "--a --b", that `wanted` says.
template <class Wanted>
std::string options_that(Wanted&& wanted, std::string_view between = " ") {
  std::string text;
  for (const OptionFacts& option : option_table()) {
    if (!wanted(option)) continue;
    text += fmt::format("{}--{}", text.empty() ? "" : between, option.name);
  }
  return text;
}

std::string command_names() {
  std::string names = "help";
  for (const CommandFacts& command : command_table()) names += fmt::format(" {}", command.name);
  return names;
}

// In a shell: the roles of the game named in the words of the line.
constexpr std::string_view roles_of_game = R"(
_orchard_roles() {
  local word
  for word in "$@"; do
    case "$word" in
      *.gdl|*.gdli)
        orchard show "$word" --json --quiet 2>/dev/null | tr -d ' \n' |
          sed -n 's/.*"roles":\[\([^]]*\)\].*/\1/p' | tr -d '"' | tr ',' '\n'
        return ;;
    esac
  done
}
)";

std::string quoted(std::string_view text) {  // in single quotes of a shell, within zsh's brackets
  std::string result;
  for (const char c : text) {
    if (c == '\'') {
      result += "'\\''";
    } else if (c == '[' || c == ']' || c == ':') {
      result += std::string("\\") + c;
    } else {
      result += c;
    }
  }
  return result;
}

}  // namespace

std::string bash_completion() {
  std::string text = "# Completion of the command orchard for bash. Made from its option table.\n";
  text += roles_of_game;
  text += fmt::format(
      "\n_orchard() {{\n"
      "  local word=\"${{COMP_WORDS[COMP_CWORD]}}\" before=\"${{COMP_WORDS[COMP_CWORD-1]}}\"\n"
      "  local command=\"${{COMP_WORDS[1]}}\"\n"
      "  if [ \"$COMP_CWORD\" -eq 1 ]; then\n"
      "    COMPREPLY=($(compgen -W \"{}\" -- \"$word\"))\n    return\n  fi\n"
      "  if [ \"$command\" = help ]; then\n"
      "    COMPREPLY=($(compgen -W \"{}\" -- \"$word\"))\n    return\n  fi\n"
      "  case \"$before\" in\n",
      command_names(), command_names());
  const auto kind = [](Completes wanted) {
    return options_that([wanted](const OptionFacts& option) { return completes(option) == wanted; },
                        "|");
  };
  const auto add_case = [&](Completes wanted, std::string_view action) {
    if (const std::string options = kind(wanted); !options.empty()) {
      text += fmt::format("    {})\n      {}\n      return ;;\n", options, action);
    }
  };
  add_case(Completes::files, "COMPREPLY=($(compgen -f -- \"$word\"))");
  add_case(Completes::folders, "COMPREPLY=($(compgen -d -- \"$word\"))");
  add_case(Completes::roles,
           "COMPREPLY=($(compgen -W \"$(_orchard_roles \"${COMP_WORDS[@]}\")\" -- \"$word\"))");
  add_case(Completes::roles_and_more,
           "COMPREPLY=($(compgen -S = -W \"$(_orchard_roles \"${COMP_WORDS[@]}\")\" -- "
           "\"$word\"))\n      compopt -o nospace");
  for (const OptionFacts& option : option_table()) {
    if (completes(option) != Completes::choices) continue;
    text += fmt::format(
        "    --{})\n      COMPREPLY=($(compgen -W \"{}\" -- \"$word\"))\n      return ;;\n",
        option.name, with_blanks(option.value));
  }
  add_case(Completes::unknown, "COMPREPLY=()");
  text += "  esac\n  case \"$word\" in\n    -*)\n      case \"$command\" in\n";
  for (const CommandFacts& command : command_table()) {
    text += fmt::format(
        "        {}) COMPREPLY=($(compgen -W \"--help {}\" -- \"$word\")) ;;\n", command.name,
        options_that([&](const OptionFacts& option) { return option.belongs_to(command.name); }));
  }
  text += "      esac ;;\n    *)\n";
  for (const CommandFacts& command : command_table()) {
    if (command.form.empty()) continue;
    text += fmt::format(
        "      if [ \"$command\" = {} ] && [ \"$COMP_CWORD\" -eq 2 ]; then\n"
        "        COMPREPLY=($(compgen -W \"{}\" -- \"$word\"))\n        return\n      fi\n",
        command.name, with_blanks(command.form));
  }
  for (const CommandFacts& command : command_table()) {
    if (!command.arguments.ends_with("…")) continue;
    text += fmt::format(
        "      if [ \"$command\" = {} ]; then\n"
        "        COMPREPLY=($(compgen -f -- \"$word\"))\n        compopt -o filenames\n"
        "        return\n      fi\n",
        command.name);
  }
  text +=
      "      COMPREPLY=($(compgen -f -X '!*.gdl?(i)' -- \"$word\") $(compgen -d -- \"$word\"))\n"
      "      compopt -o filenames ;;\n  esac\n}\n"
      "shopt -q extglob || shopt -s extglob\ncomplete -F _orchard orchard\n";
  return text;
}

std::string zsh_completion() {
  std::string text =
      "#compdef orchard\n# Completion of the command orchard for zsh. Made from its option "
      "table.\n";
  text += roles_of_game;
  text += "\n_orchard_role() { compadd -- ${(f)\"$(_orchard_roles \"${words[@]}\")\"} }\n";
  text += "_orchard_role_is() { compadd -S = -- ${(f)\"$(_orchard_roles \"${words[@]}\")\"} }\n";
  text += "_orchard_game() { _files -g '*.gdl(|i)' }\n";
  text += "\n_orchard() {\n  local -a commands\n  commands=(\n    'help:describe a command'\n";
  for (const CommandFacts& command : command_table()) {
    text += fmt::format("    '{}:{}'\n", command.name, quoted(command.summary));
  }
  text +=
      "  )\n  if (( CURRENT == 2 )); then\n    _describe command commands\n    return\n  fi\n"
      "  local command=$words[2]\n  shift words\n  (( CURRENT-- ))\n  case $command in\n"
      "    help) _describe command commands ;;\n";
  for (const CommandFacts& command : command_table()) {
    text += fmt::format("    {})\n      _arguments \\\n        '--help[describe the command]' \\\n",
                        command.name);
    for (const OptionFacts& option : option_table()) {
      if (!option.belongs_to(command.name)) continue;
      std::string value;
      switch (completes(option)) {
        case Completes::nothing:
          break;
        case Completes::files:
          value = ":file:_files";
          break;
        case Completes::folders:
          value = ":folder:_files -/";
          break;
        case Completes::roles:
          value = ":role:_orchard_role";
          break;
        case Completes::roles_and_more:
          value = ":role:_orchard_role_is";
          break;
        case Completes::choices:
          value = fmt::format(":value:({})", with_blanks(option.value));
          break;
        case Completes::unknown:
          value = fmt::format(":{}: ", quoted(option.value));
          break;
      }
      text +=
          fmt::format("        '{}--{}[{}]{}' \\\n", option.kind == Kind::repeated_text ? "*" : "",
                      option.name, quoted(option.help), value);
    }
    std::size_t argument = 1;
    if (!command.form.empty()) {
      text += fmt::format("        '{}:form:({})' \\\n", argument++, with_blanks(command.form));
    }
    if (command.arguments.empty()) {
      text += "        '*:: :' ;;\n";
      continue;
    }
    const bool several = command.arguments.ends_with("…");
    const bool game = command.arguments.find("GAME") != std::string_view::npos;
    text += fmt::format("        '{}:{}:{}'", several ? "*" : std::to_string(argument++),
                        quoted(command.arguments),
                        game      ? "_orchard_game"
                        : several ? "_files"
                                  : " ");
    if (!command.more.empty()) {
      text += fmt::format(" \\\n        '{}:{}: '", argument++, command.more);
    }
    text += " ;;\n";
  }
  return text + "  esac\n}\n\n_orchard \"$@\"\n";
}

}  // namespace orchard
