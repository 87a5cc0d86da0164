// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/base/working.h"

#include <charconv>
#include <cmath>
#include <limits>

#include "core/base/numbers.h"

namespace culvert {
namespace {

constexpr double unreadable = std::numeric_limits<double>::quiet_NaN();

/// Recursive descent over  sum := product (('+'|'-') product)*,  product := power (('*'|'/') power)*,  power := atom
/// ['^' power].
class Evaluator {
  public:
    Evaluator(const std::string& text, const std::vector<Term>& terms) : text_(text), terms_(terms) {}

    double run(std::string* error) {
        const double value = sum();
        skip();
        if (at_ != text_.size() && error_.empty()) error_ = "unread text at \"" + text_.substr(at_) + "\"";
        if (error) *error = error_;
        return error_.empty() ? value : unreadable;
    }

  private:
    void skip() {
        while (at_ < text_.size() && text_[at_] == ' ') ++at_;
    }
    bool take(char c) {
        skip();
        if (at_ >= text_.size() || text_[at_] != c) return false;
        ++at_;
        return true;
    }
    double sum() {
        double value = product();
        for (;;) {
            if (take('+')) value += product();
            else if (take('-')) value -= product();
            else return value;
        }
    }
    double product() {
        double value = power();
        for (;;) {
            if (take('*')) value *= power();
            else if (take('/')) value /= power();
            else return value;
        }
    }
    double power() {
        if (take('-')) return -power();
        const double base = atom();
        return take('^') ? std::pow(base, power()) : base;
    }
    double fail(const std::string& what) {
        if (error_.empty()) error_ = what;
        return unreadable;
    }
    double atom() {
        if (take('(')) {
            const double value = sum();
            return take(')') ? value : fail("a bracket is not closed");
        }
        skip();
        if (at_ >= text_.size()) return fail("the formula ends early");
        const char c = text_[at_];
        if ((c >= '0' && c <= '9') || c == '.') {
            double value = 0;
            const auto read = std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
            if (read.ec != std::errc()) return fail("no number at \"" + text_.substr(at_) + "\"");
            at_ = static_cast<std::size_t>(read.ptr - text_.data());
            return value;
        }
        std::string name;
        while (at_ < text_.size() && std::string(" +-*/^(),").find(text_[at_]) == std::string::npos)
            name += text_[at_++];
        skip();
        if (at_ < text_.size() && text_[at_] == '(') return call(name);
        for (const Term& term : terms_)
            if (term.symbol == name) return term.value;
        return fail("no value for \"" + name + "\"");
    }
    double call(const std::string& name) {
        take('(');
        const double a = sum();
        double b = unreadable;
        if (take(',')) b = sum();
        if (!take(')')) return fail("a bracket is not closed");
        if (name == "sqrt") return std::sqrt(a);
        if (name == "exp") return std::exp(a);
        if (name == "ln") return std::log(a);
        if (name == "sin") return std::sin(a);
        if (name == "cos") return std::cos(a);
        if (name == "asin") return std::asin(a);
        if (name == "abs") return std::abs(a);
        if (name == "min") return std::min(a, b);
        if (name == "max") return std::max(a, b);
        return fail("no function \"" + name + "\"");
    }

    const std::string& text_;
    const std::vector<Term>& terms_;
    std::size_t at_ = 0;
    std::string error_;
};

}  // namespace

std::string working_number(double value, int digits) { return general(value, digits); }

double evaluate(const std::string& formula, const std::vector<Term>& terms, std::string* error) {
    return Evaluator(formula, terms).run(error);
}

}  // namespace culvert
