// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/kit/actions.h"

namespace culvert::app {

QAction* Actions::add(const QString& id, const QString& words, const QString& help, const QKeySequence& shortcut,
                      std::function<void()> run, std::function<bool()> enabled) {
    auto* action = new QAction(words, window_);
    action->setObjectName(id);
    action->setShortcut(shortcut);
    action->setToolTip(help +
                       (shortcut.isEmpty() ? QString() : " (" + shortcut.toString(QKeySequence::NativeText) + ")"));
    action->setStatusTip(help);
    connect(action, &QAction::triggered, this, [run = std::move(run)] { run(); });
    window_->addAction(action);
    actions_.push_back(action);
    enabled_.push_back(std::move(enabled));
    return action;
}

QAction* Actions::find(const QString& id) const {
    for (QAction* a : actions_)
        if (a->objectName() == id) return a;
    return nullptr;
}

void Actions::refresh() {
    for (std::size_t i = 0; i < actions_.size(); ++i)
        if (enabled_[i]) actions_[i]->setEnabled(enabled_[i]());
}

}  // namespace culvert::app
