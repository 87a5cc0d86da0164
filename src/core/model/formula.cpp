// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/model/formula.h"
#include "core/model/cells.h"

#include <charconv>
#include <cmath>

namespace culvert {
namespace {

bool is_length(Quantity q) { return q == Quantity::Length || q == Quantity::Level || q == Quantity::Size; }

enum class Extra { None, FromRim, ToRim, DrawnLength, DrawnSlope };

}  // namespace

std::string folded_name(std::string_view s) {
    std::string out;
    for (const char c : s)
        if (std::isalnum(static_cast<unsigned char>(c)) || static_cast<unsigned char>(c) >= 128)
            out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    return out;
}

struct Formula::Node {
    char op = 0;  ///< 'n' number, 'f' field, '+', '-', '*', '/', '~' negated
    double number = 0;
    std::size_t field = 0;
    Extra extra = Extra::None;
    double unit = 1;  ///< SI of one, for a field
    std::shared_ptr<const Node> a, b;

    double value(const Project& project, Kind kind, std::uint64_t id) const {
        switch (op) {
            case 'n': return number;
            case '~': return -a->value(project, kind, id);
            case '+': return a->value(project, kind, id) + b->value(project, kind, id);
            case '-': return a->value(project, kind, id) - b->value(project, kind, id);
            case '*': return a->value(project, kind, id) * b->value(project, kind, id);
            case '/': {
                const double d = b->value(project, kind, id);
                return d == 0 ? not_given : a->value(project, kind, id) / d;
            }
            default: break;
        }
        if (extra != Extra::None) {
            const Pipe* p = project.pipes.find(id);
            if (!p) return not_given;
            const Structure *from = project.structures.find(p->from.value), *to = project.structures.find(p->to.value);
            switch (extra) {
                case Extra::FromRim: return from ? from->rim / unit : not_given;
                case Extra::ToRim: return to ? to->rim / unit : not_given;
                case Extra::DrawnLength: return drawn_length(project, *p) / unit;
                default: return (p->invert_from - p->invert_to) / length_of(project, *p) / unit;
            }
        }
        return number_of(project, kind, id, field) / unit;
    }
};

class FormulaParser {
  public:
    FormulaParser(std::string_view text, Kind kind, std::size_t field, const UnitSet& units)
        : text_(text), kind_(kind), units_(units), target_(infos_of(kind)[field]) {}

    std::shared_ptr<const Formula::Node> run(std::string& error, std::size_t field) {
        Link root;
        skip();
        if (at_ < text_.size() && text_[at_] == '=') {
            ++at_;
            root = sum();
        } else if (at_ < text_.size() && (text_[at_] == '*' || text_[at_] == '/')) {
            const char op = text_[at_++];
            root = two(op, of_field(field), product());
        } else root = two('+', of_field(field), sum());
        skip();
        if (error_.empty() && at_ < text_.size())
            fail("\"" + std::string(text_.substr(at_, 12)) + "\" is not understood");
        error = error_;
        return root;
    }

  private:
    using Node = Formula::Node;
    using Link = std::shared_ptr<const Node>;
    void skip() {
        while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
    }
    void fail(const std::string& why) {
        if (error_.empty()) error_ = why;
    }
    static Link two(char op, Link a, Link b) {
        auto n = std::make_shared<Node>();
        n->op = op;
        n->a = std::move(a);
        n->b = std::move(b);
        return n;
    }
    static Link number(double v) {
        auto n = std::make_shared<Node>();
        n->op = 'n';
        n->number = v;
        return n;
    }
    [[nodiscard]] double unit_for(Quantity q) const {
        if (is_length(q) && is_length(target_->quantity)) return units_.unit(target_->quantity).factor;
        if (q == target_->quantity) return units_.unit(q).factor;
        if (q == Quantity::Slope || q == Quantity::Ratio || q == Quantity::None) return 1;
        // A length in a formula for something else (a slope, say) counts in metres with other lengths: SI throughout.
        return 1;
    }
    Link of_field(std::size_t field) const {
        auto n = std::make_shared<Node>();
        n->op = 'f';
        n->field = field;
        n->unit = unit_for(infos_of(kind_)[field]->quantity);
        return n;
    }
    Link sum() {
        if (++deep_ > 200) fail("it is nested too deep");
        Link left = error_.empty() ? product() : number(0);
        for (skip(); error_.empty() && at_ < text_.size() && (text_[at_] == '+' || text_[at_] == '-'); skip()) {
            const char op = text_[at_++];
            left = two(op, left, product());
        }
        --deep_;
        return left;
    }
    Link product() {
        Link left = unary();
        for (skip(); error_.empty() && at_ < text_.size() && (text_[at_] == '*' || text_[at_] == '/'); skip()) {
            const char op = text_[at_++];
            left = two(op, left, unary());
        }
        return left;
    }
    Link unary() {
        skip();
        bool minus = false;
        while (at_ < text_.size() && (text_[at_] == '-' || text_[at_] == '+')) {
            minus ^= text_[at_++] == '-';
            skip();
        }
        Link value = primary();
        if (!minus) return value;
        auto n = std::make_shared<Node>();
        n->op = '~';
        n->a = std::move(value);
        return n;
    }
    Link primary() {
        skip();
        if (at_ >= text_.size()) {
            fail("it ends where a number or a name is expected");
            return number(0);
        }
        if (text_[at_] == '(') {
            ++at_;
            Link inner = sum();
            skip();
            if (at_ < text_.size() && text_[at_] == ')') ++at_;
            else fail("a bracket is not closed");
            return inner;
        }
        if (std::isdigit(static_cast<unsigned char>(text_[at_])) || text_[at_] == '.') return literal();
        return name();
    }
    Link literal() {
        double v = 0;
        const auto read = std::from_chars(text_.data() + at_, text_.data() + text_.size(), v, std::chars_format::fixed);
        if (read.ec != std::errc()) {
            fail("\"" + std::string(text_.substr(at_, 12)) + "\" is no number");
            return number(0);
        }
        const std::size_t begin = at_;
        at_ = static_cast<std::size_t>(read.ptr - text_.data());
        std::size_t end = at_;
        while (end < text_.size() && text_[end] == ' ') ++end;
        const std::size_t from = end;
        while (end < text_.size() &&
               (std::isalpha(static_cast<unsigned char>(text_[end])) || static_cast<unsigned char>(text_[end]) >= 128 ||
                text_[end] == '%' || text_[end] == '"' || text_[end] == '\''))
            ++end;
        if (end == from) return number(v);
        const std::string_view symbol = text_.substr(from, end - from);
        for (const Quantity q : {target_->quantity, Quantity::Length, Quantity::Size})
            for (const Unit& u : units_of(q))
                if (u.symbol == symbol && (q == target_->quantity || is_length(target_->quantity))) {
                    at_ = end;
                    return number(v * u.factor / units_.unit(target_->quantity).factor);
                }
        fail("\"" + std::string(text_.substr(begin, end - begin)) + "\" has a unit that does not fit here");
        return number(0);
    }
    Link name() {
        std::size_t end = at_;
        if (text_[at_] == '[') {  // a label with spaces: [Invert up]
            end = text_.find(']', at_);
            if (end == std::string_view::npos) {
                fail("a [ is not closed");
                return number(0);
            }
            Link found = look_up(text_.substr(at_ + 1, end - at_ - 1));
            at_ = end + 1;
            return found;
        }
        while (end < text_.size() && (std::isalnum(static_cast<unsigned char>(text_[end])) || text_[end] == '_' ||
                                      static_cast<unsigned char>(text_[end]) >= 128))
            ++end;
        if (end == at_) {
            fail("\"" + std::string(text_.substr(at_, 1)) + "\" does not belong in a formula");
            return number(0);
        }
        // Labels of two words: take the next word too where that makes a field.
        for (std::size_t longer = end; longer < text_.size() && text_[longer] == ' ';) {
            std::size_t next = longer;
            while (next < text_.size() && text_[next] == ' ') ++next;
            std::size_t stop = next;
            while (stop < text_.size() && std::isalnum(static_cast<unsigned char>(text_[stop]))) ++stop;
            if (stop == next) break;
            if (find(text_.substr(at_, stop - at_)).first) end = stop;
            longer = stop;
        }
        Link found = look_up(text_.substr(at_, end - at_));
        at_ = end;
        return found;
    }
    [[nodiscard]] std::pair<bool, Link> find(std::string_view given) const {
        const std::string key = folded_name(given);
        auto n = std::make_shared<Node>();
        n->op = 'f';
        const auto infos = infos_of(kind_);
        for (std::size_t i = 0; i < infos.size(); ++i)
            if (folded_name(infos[i]->key) == key || folded_name(infos[i]->label) == key) {
                if (infos[i]->quantity == Quantity::None && infos[i]->low < -1e299) continue;
                if (!infos[i]->choices.empty()) continue;
                n->field = i;
                n->unit = unit_for(infos[i]->quantity);
                // An entered length may be missing: the drawn one stands in.
                if (kind_ == Kind::Pipe && infos[i]->key == "length") n->extra = Extra::DrawnLength;
                return {true, n};
            }
        if (kind_ == Kind::Pipe) {
            const auto extra = key == "fromrim" ? Extra::FromRim
                               : key == "torim" ? Extra::ToRim
                               : key == "slope" ? Extra::DrawnSlope
                                                : Extra::None;
            if (extra != Extra::None) {
                n->extra = extra;
                n->unit = unit_for(extra == Extra::DrawnSlope ? Quantity::Slope : Quantity::Level);
                return {true, n};
            }
        }
        return {false, nullptr};
    }
    Link look_up(std::string_view given) {
        auto [found, node] = find(given);
        if (found) return node;
        std::string known;
        for (const FieldInfo* f : infos_of(kind_))
            if (f->quantity != Quantity::None && f->choices.empty())
                known += (known.empty() ? "" : ", ") + std::string(f->key);
        fail("\"" + std::string(given) + "\" is no number of a " + std::string(kind_name(kind_)) + ": " + known);
        return number(0);
    }

    std::string_view text_;
    std::size_t at_ = 0;
    Kind kind_;
    const UnitSet& units_;
    const FieldInfo* target_;
    std::string error_;
    int deep_ = 0;
};

Formula Formula::parse(std::string_view text, Kind kind, std::size_t field, const UnitSet& units) {
    Formula f;
    f.kind_ = kind;
    f.field_ = field;
    f.unit_ = units.unit(infos_of(kind)[field]->quantity).factor;
    if (form_of(kind, field) != FieldForm::Number)
        f.error_ = std::string(infos_of(kind)[field]->label) + " is not a number";
    else f.root_ = FormulaParser(text, kind, field, units).run(f.error_, field);
    return f;
}

double Formula::value(const Project& project, std::uint64_t id) const {
    return root_ && ok() ? root_->value(project, kind_, id) * unit_ : not_given;
}

bool is_formula(std::string_view text) {
    const auto at = text.find_first_not_of(' ');
    if (at == std::string_view::npos) return false;
    const char c = text[at];
    return c == '=' || c == '*' || c == '/' || ((c == '+' || c == '-') && at + 1 < text.size());
}

GroupEdit edit_by_formula(const Project& project, Kind kind, std::size_t field, const std::vector<std::uint64_t>& ids,
                          std::string_view text) {
    GroupEdit out;
    const UnitSet units = units_of(project);
    const Formula f = Formula::parse(text, kind, field, units);
    if (!f.ok()) {
        out.refused.push_back(f.error());
        return out;
    }
    const FieldInfo& info = *infos_of(kind)[field];
    Editing e(project, std::string(info.label) + " " + std::string(text) + " of " + std::to_string(ids.size()) + " " +
                           std::string(table_name(kind)));
    for (const std::uint64_t id : ids) {
        double v = f.value(project, id);
        if (std::isnan(v)) {
            out.refused.push_back(element_name(project, kind, id) + ": a value that it needs is not given");
            continue;
        }
        // What a person would write: no farther than a hundredth of a millimetre.
        if (is_length(info.quantity)) v = std::round(v * 1e5) / 1e5;
        if (const std::string fault = range_fault(info_of(project, kind, id, field), v, units); !fault.empty()) {
            out.refused.push_back(element_name(project, kind, id) + ": " + std::string(info.label) + " " + fault);
            continue;
        }
        e.set(kind, id, info.key, v);
    }
    out.edit = e.take();
    return out;
}

}  // namespace culvert
