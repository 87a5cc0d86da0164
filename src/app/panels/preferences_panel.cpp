// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/panels/preferences_panel.h"

#include <QDir>
#include <QFileDialog>
#include <QGridLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSettings>

#include "app/kit/theme.h"

namespace culvert::app {

QString PreferencesPanel::journal_folder() {
    const QString usual = qEnvironmentVariable("XDG_STATE_HOME", QDir::homePath() + "/.local/state") + "/calm-culvert";
    const QString chosen = QSettings().value("journal_folder").toString();
    return chosen.isEmpty() ? usual : chosen;
}
bool PreferencesPanel::us_units() { return QSettings().value("us_units", false).toBool(); }

PreferencesPanel::PreferencesPanel(QWidget* parent)
    : QWidget(parent), looks_(new QComboBox), text_size_(new QComboBox), units_(new QComboBox), folder_(new QLineEdit) {
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(12, 8, 12, 8);
    int row = 0;
    const auto line = [&](const QString& words, QWidget* w, const QString& help) {
        auto* label = new QLabel(words);
        label->setBuddy(w);
        w->setAccessibleName(words);
        w->setToolTip(help);
        grid->addWidget(label, row, 0);
        grid->addWidget(w, row++, 1);
    };
    looks_->addItems({"day paper", "night paper"});
    looks_->setCurrentIndex(theme().dark);
    line("Looks", looks_, "Light or dark, for this and all later sessions");
    for (const int percent : {90, 100, 115, 130, 150})
        text_size_->addItem(QString("%1 %").arg(percent), percent / 100.0);
    text_size_->setCurrentIndex(std::max(0, text_size_->findData(text_scale())));
    line("Text size", text_size_, "Of all lettering; drawings keep their scale");
    units_->addItems({"SI", "US"});
    units_->setCurrentIndex(us_units());
    line("Units of new projects", units_, "A project that exists keeps its own");
    folder_->setText(journal_folder());
    line("Journal folder", folder_,
         "Where changes are kept safe until they are saved. From the next start on; journals that lie in "
         "the folder used until then stay there");
    auto* choose = new QPushButton("Choose …");
    choose->setToolTip("Choose a folder on a disk of this machine");
    grid->addWidget(choose, row - 1, 2);
    grid->setColumnStretch(1, 1);
    grid->setColumnMinimumWidth(1, 260);
    grid->setRowStretch(row, 1);
    connect(looks_, &QComboBox::currentIndexChanged, this, [this](int i) {
        if (theme().dark == (i == 1)) return;
        set_theme(i == 1);
        QSettings().setValue("dark", i == 1);
        emit looks_changed();
    });
    connect(text_size_, &QComboBox::currentIndexChanged, this, [this] {
        const double scale = text_size_->currentData().toDouble();
        QSettings().setValue("text_scale", scale);
        set_text_scale(scale);
        set_theme(theme().dark);
        emit looks_changed();
    });
    connect(units_, &QComboBox::currentIndexChanged, this, [](int i) { QSettings().setValue("us_units", i == 1); });
    const auto keep = [this] {
        const QString wanted = folder_->text().trimmed();
        if (wanted.isEmpty()) QSettings().remove("journal_folder");
        else QSettings().setValue("journal_folder", wanted);
        folder_->setText(journal_folder());
    };
    connect(folder_, &QLineEdit::editingFinished, this, keep);
    connect(choose, &QPushButton::clicked, this, [this, keep] {
        const QString chosen = QFileDialog::getExistingDirectory(this, "Journal folder", folder_->text());
        if (chosen.isEmpty()) return;
        folder_->setText(chosen);
        keep();
    });
}

ShortcutsPanel::ShortcutsPanel(const Actions& actions, QWidget* parent)
    : QWidget(parent), actions_(actions), filter_(new QLineEdit), table_(new QTableWidget(0, 3)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(8, 6, 8, 6);
    filter_->setPlaceholderText("Find a command or a key");
    filter_->setAccessibleName("Find a command or a key");
    column->addWidget(filter_);
    table_->setAccessibleName("Shortcuts");
    table_->setHorizontalHeaderLabels({"Keys", "Command", "What it does"});
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->setShowGrid(false);
    table_->setColumnWidth(0, 130);
    table_->setColumnWidth(1, 240);
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    column->addWidget(table_, 1);
    connect(filter_, &QLineEdit::textChanged, this, &ShortcutsPanel::refresh);
    refresh();
}

void ShortcutsPanel::refresh() {
    std::vector<const QAction*> rows;
    const QString typed = filter_->text().trimmed();
    for (const QAction* a : actions_.all()) {
        const QString keys = a->shortcut().toString(QKeySequence::NativeText);
        if (typed.isEmpty() ? !keys.isEmpty() : (keys + " " + a->text()).contains(typed, Qt::CaseInsensitive))
            rows.push_back(a);
    }
    std::stable_sort(rows.begin(), rows.end(),
                     [](const QAction* a, const QAction* b) { return a->text() < b->text(); });
    table_->setRowCount(static_cast<int>(rows.size()));
    for (int r = 0; r < table_->rowCount(); ++r) {
        const QAction* a = rows[static_cast<std::size_t>(r)];
        table_->setItem(r, 0, new QTableWidgetItem(a->shortcut().toString(QKeySequence::NativeText)));
        table_->setItem(r, 1, new QTableWidgetItem(a->text()));
        table_->setItem(r, 2, new QTableWidgetItem(a->statusTip()));
    }
}

}  // namespace culvert::app
