// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/window/command_bar.h"
#include <cmath>

#include "app/desk/text.h"

#include <QKeyEvent>
#include <QVBoxLayout>

#include "app/kit/theme.h"
#include "app/window/calc_drawing.h"
#include "core/base/words.h"
#include "report/calc.h"
#include "report/quick.h"

namespace culvert::app {
namespace {

constexpr int most_rows = 12;

/// How well a command's name and help answer what was typed; lower is better, -1 not at all. Every typed word must
/// stand in one of them: the start of a word of the name counts most, then within the name, then the help.
int match(const QString& name, const QString& help, const QString& typed) {
    int score = 0;
    for (const QString& word : typed.split(' ', Qt::SkipEmptyParts)) {
        const auto best = [&](const QString& in, int base) {
            int found = -1;
            for (auto at = in.indexOf(word, 0, Qt::CaseInsensitive); at >= 0;
                 at = in.indexOf(word, at + 1, Qt::CaseInsensitive)) {
                const int here = base + (at == 0 ? 0 : (in[at - 1].isLetterOrNumber() ? 20 : 4));
                if (found < 0 || here < found) found = here;
            }
            return found;
        };
        const int in_name = best(name, 0), in_help = best(help, 60);
        if (in_name < 0 && in_help < 0) return -1;
        score += in_name >= 0 && (in_help < 0 || in_name <= in_help) ? in_name : in_help;
    }
    return score * 4 + static_cast<int>(name.size()) / 4;
}

}  // namespace

CommandBar::CommandBar(Document& document, Actions& actions, QWidget* parent)
    : QFrame(parent), document_(document), actions_(actions), line_(new QLineEdit), list_(new QListWidget) {
    setObjectName("command-bar");
    setAccessibleName("Command bar");
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 8, 8, 8);
    line_->setAccessibleName("Find");
    line_->setMinimumHeight(30);
    column->addWidget(line_);
    column->addWidget(list_);
    drawing_ = new CalcDrawing;
    column->addWidget(drawing_);
    drawing_->hide();
    list_->setMouseTracking(true);
    const auto point_at = [this](QListWidgetItem* item) {
        if (item && item->data(Qt::UserRole) == QVariant("answer"))
            drawing_->show_row(item->data(Qt::UserRole + 1).toInt());
    };
    connect(list_, &QListWidget::currentItemChanged, this, point_at);
    connect(list_, &QListWidget::itemEntered, this, point_at);
    list_->setFocusPolicy(Qt::NoFocus);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    line_->installEventFilter(this);
    connect(line_, &QLineEdit::textChanged, this, &CommandBar::fill);
    connect(list_, &QListWidget::itemClicked, this, &CommandBar::choose);
    hide();
}

void CommandBar::open() {
    asked_.clear();
    answer_ = {};
    line_->setPlaceholderText("A command, an element, or a question: flow ratio 450 at 0.6 % 264 l/s");
    present();
}

void CommandBar::ask(const QString& question, const QStringList& names, std::function<void(int)> chosen) {
    asked_ = names;
    answer_ = std::move(chosen);
    line_->setPlaceholderText(question);
    present();
}

void CommandBar::present() {
    const Theme& t = theme();
    setStyleSheet(
        QString("QFrame#command-bar{background:%1;border:1px solid %2;border-radius:8px}QListWidget{background:%1}")
            .arg(t.panel.name(), t.quiet.name()));
    setGeometry(parentWidget()->width() / 2 - 290, 52, 580, 340);
    line_->clear();
    fill();
    show();
    raise();
    line_->setFocus();
}

void CommandBar::fill_asked(const QString& typed) {
    std::vector<std::pair<int, int>> rows;  // score, place
    for (int i = 0; i < asked_.size(); ++i)
        if (const int score = match(text(plain_dashes(plain(asked_[i]))), {}, text(plain_dashes(plain(typed))));
            score >= 0)
            rows.emplace_back(score, i);
    std::stable_sort(rows.begin(), rows.end(), [](auto& a, auto& b) { return a.first < b.first; });
    for (std::size_t k = 0; k < rows.size() && k < most_rows; ++k) {
        auto* item = new QListWidgetItem(asked_[rows[k].second], list_);
        item->setData(Qt::UserRole, QString("asked:%1").arg(rows[k].second));
    }
    if (rows.empty()) {
        auto* item = new QListWidgetItem("None of these has such a name.", list_);
        item->setFlags(Qt::NoItemFlags);
    }
    list_->setCurrentRow(0);
    drawing_->hide();
    resize(width(), 66 + list_->count() * std::max(20, list_->sizeHintForRow(0)));
}

void CommandBar::fill() {
    list_->clear();
    if (answer_) return fill_asked(line_->text().trimmed());
    bool drawn = false;
    const QString typed = line_->text().trimmed();
    struct Row {
        int score;
        QString label, extra;
        QVariant what;
        int answer = 0;  ///< row of a table of answers
    };
    std::vector<Row> rows;
    put_ = {};
    const auto put = [&](Edit edit, const QString& words) {
        if (edit.empty()) return;
        put_ = std::move(edit);
        rows.push_back({-1001, words, "Enter puts it there", QVariant("put")});
    };
    if (const QuickAnswer answer = quick_question(plain(typed), document_.project()); answer.understood) {
        rows.push_back({-1002, text(answer.answer), text(answer.working), QVariant("answer")});
        if (answer.size) put(size_edit(answer.size->size), "Put it on the selected pipe");
    } else if (const CalcTable calc =
                   calculate(plain(typed), document_.units(), document_.project().settings().edition);
               calc.calc && !typed.isEmpty()) {
        if (calc.error.empty()) {
            const auto words = [&](std::size_t i) {
                QString line;
                for (const CalcField& f : calc.calc->inputs)
                    if (f.key == calc.ranged)
                        if (const auto at = calc.rows[i].values.find(f.key); at != calc.rows[i].values.end())
                            line = text(document_.units().text(at->second, f.quantity)) + ": ";
                return line + text(calc.rows[i].ok ? answer_line(*calc.calc, calc.rows[i], document_.units())
                                                   : calc.rows[i].error);
            };
            for (std::size_t i = 0; i < calc.rows.size(); ++i)  // a range has a row for each of its values
                rows.push_back(
                    {-1002 + 2 * static_cast<int>(i), words(i), {}, QVariant("answer"), static_cast<int>(i)});
            drawing_->show_table(calc, document_.units());
            drawn = drawing_->has_curve() || !drawing_->section().isEmpty();
            const auto value = [&](const char* key) {
                const auto at = calc.rows[0].values.find(key);
                return at == calc.rows[0].values.end() ? not_given : at->second;
            };
            if (calc.ranged.empty() && calc.calc->name == "size")
                put(size_edit(value("size")), "Put the next size on the selected pipe");
            if (calc.ranged.empty() && (calc.calc->name == "opening" || calc.calc->name == "sag-opening"))
                put(opening_edit(value("length")), "Put this length on the selected inlet");
        } else
            rows.push_back({-900, text(calc.error), "for example: gutter flow=40l/s grade=1.2%", QVariant("answer")});
    }
    actions_.refresh();
    for (QAction* a : actions_.all()) {
        int score = match(a->text(), a->statusTip(), typed);
        if (score < 0 || !a->isEnabled()) continue;
        // What was used lately first, among those that answer about as well.
        if (const auto used = used_.indexOf(a->objectName()); used >= 0)
            score -= std::max(0, 12 - 2 * static_cast<int>(used));
        rows.push_back({score, a->text(), a->shortcut().toString(QKeySequence::NativeText),
                        QVariant("action:" + a->objectName())});
    }
    if (!typed.isEmpty()) {
        const auto element = [&](Kind kind, std::uint64_t id, const QString& name) {
            // Names are typed with any dash: "A6-A7" is A6–A7.
            const int score = match(text(plain_dashes(plain(name))), {}, text(plain_dashes(plain(typed))));
            if (score >= 0)
                rows.push_back({score - 3, name, text(kind_name(kind)),
                                QVariant(QString("element:%1:%2").arg(static_cast<int>(kind)).arg(id))});
        };
        for (const Structure& s : document_.project().structures) element(Kind::Structure, s.id, text(s.name));
        for (const Pipe& p : document_.project().pipes)
            element(Kind::Pipe, p.id, text(pipe_name(document_.project(), p)));
        for (const Catchment& c : document_.project().catchments) element(Kind::Catchment, c.id, text(c.name));
    }
    std::stable_sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.score < b.score; });
    for (std::size_t i = 0; i < rows.size() && i < most_rows; ++i) {
        auto* item =
            new QListWidgetItem(rows[i].label + (rows[i].extra.isEmpty() ? "" : "     " + rows[i].extra), list_);
        item->setData(Qt::UserRole, rows[i].what);
        item->setData(Qt::UserRole + 1, rows[i].answer);
        if (rows[i].what == QVariant("answer")) item->setFont(lettering(10.5, true));
    }
    if (rows.empty()) {
        auto* item = new QListWidgetItem(
            "Nothing answers to that. Try a name such as A3, a command such as Open, or: size for 264 l/s at 0.6 %",
            list_);
        item->setFlags(Qt::NoItemFlags);
    }
    list_->setCurrentRow(0);
    drawing_->setVisible(drawn);
    resize(width(),
           66 + list_->count() * std::max(20, list_->sizeHintForRow(0)) + (drawn ? drawing_->height() + 6 : 0));
}

/// The smallest size of the selected pipe's kind that is at least so large.
Edit CommandBar::size_edit(double size) const {
    const Pipe* pipe =
        document_.selected().kind == Kind::Pipe ? document_.project().pipes.find(document_.selected().id) : nullptr;
    if (!pipe || std::isnan(size)) return {};
    const PipeSize* best = nullptr;
    for (const PipeSize* s : sizes_of(document_.project(), pipe->material, pipe->shape))
        if (s->size >= size * (1 - 1e-9) && (!best || s->size < best->size)) best = s;
    return best ? with_size(document_.project(), {pipe->id}, *best) : Edit{};
}
Edit CommandBar::opening_edit(double length) const {
    const Structure* s = document_.selected().kind == Kind::Structure
                             ? document_.project().structures.find(document_.selected().id)
                             : nullptr;
    if (!s || s->kind != StructureKind::Inlet || std::isnan(length)) return {};
    Editing e(document_.project(), "Opening of " + s->name);
    e.set(Kind::Structure, s->id, "opening_length", std::round(length * 1000) / 1000);
    return e.take();
}

void CommandBar::choose() {
    const QListWidgetItem* item = list_->currentItem();
    if (!item) return;
    const QString chosen = item->data(Qt::UserRole).toString();
    if (chosen == "answer" || chosen.isEmpty()) return;  // it stands there to be read
    hide();
    if (parentWidget()) parentWidget()->setFocus();
    if (chosen.startsWith("asked:")) {
        const auto answer = std::exchange(answer_, {});
        answer(chosen.mid(6).toInt());
        return;
    }
    if (chosen == "put") {
        document_.commit(std::exchange(put_, {}));
        return;
    }
    if (chosen.startsWith("action:")) {
        used_.removeAll(chosen.mid(7));
        used_.prepend(chosen.mid(7));
        if (QAction* a = actions_.find(chosen.mid(7))) a->trigger();
    } else {
        const auto parts = chosen.split(':');
        emit element_chosen({static_cast<Kind>(parts[1].toInt()), parts[2].toULongLong()});
    }
}

bool CommandBar::eventFilter(QObject* watched, QEvent* event) {
    if (watched == line_ && event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Escape) {
            hide();
            if (parentWidget()) parentWidget()->setFocus();
            return true;
        }
        if (key == Qt::Key_Down || key == Qt::Key_Up) {
            list_->setCurrentRow(
                std::clamp(list_->currentRow() + (key == Qt::Key_Down ? 1 : -1), 0, std::max(0, list_->count() - 1)));
            return true;
        }
        if (key == Qt::Key_Return || key == Qt::Key_Enter) {
            choose();
            return true;
        }
    }
    if (watched == line_ && event->type() == QEvent::FocusOut) {
        if (!isAncestorOf(focusWidget()) || !line_->hasFocus())
            QMetaObject::invokeMethod(
                this,
                [this] {
                    if (!line_->hasFocus()) hide();
                },
                Qt::QueuedConnection);
    }
    return QFrame::eventFilter(watched, event);
}

}  // namespace culvert::app
