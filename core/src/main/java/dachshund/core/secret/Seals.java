package dachshund.core.secret;

import dachshund.core.source.SettingField;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * Keeps the secrets among the settings of a thing. Each is sealed for the thing and for where it goes and as whom
 * ({@link SettingField#reaches}): with another address it does not open, by whatever way the address was changed.
 */
public final class Seals {

    private final SecretBox box;

    public Seals(SecretBox box) {
        this.box = box;
    }

    /** What the secrets of a thing are about. What is as in a new form is left out: a later version may have more fields. */
    private static String about(String thing, List<SettingField> fields, Map<String, String> settings) {
        StringBuilder about = new StringBuilder(thing);
        for (SettingField field : fields) {
            String value = settings.getOrDefault(field.name(), field.initial()).strip();
            if (field.reaches() && !value.equals(field.initial())) {
                about.append('\n').append(field.name()).append('=').append(value);
            }
        }
        return about.toString();
    }

    /** As earlier versions said it: every field that there was then. */
    private static String aboutOfBefore(String thing, List<SettingField> fields, Map<String, String> settings) {
        StringBuilder about = new StringBuilder(thing);
        fields.stream()
                .filter(field -> field.reaches() && settings.containsKey(field.name()))
                .forEach(field -> about.append('\n')
                        .append(field.name())
                        .append('=')
                        .append(settings.get(field.name()).strip()));
        return about.toString();
    }

    /** @throws SecretBox.NotForThis where it was kept for something else */
    private String open(String text, String thing, List<SettingField> fields, Map<String, String> settings) {
        try {
            return box.open(text, about(thing, fields, settings));
        } catch (SecretBox.NotForThis maybeOfBefore) {
            return box.open(text, aboutOfBefore(thing, fields, settings));
        }
    }

    /**
     * Settings with which a thing can be put to work: secrets in clear, what is missing as in a new form.
     *
     * @throws IllegalArgumentException with a sentence, where a setting is not fine, or a secret was kept for something else
     */
    public Map<String, String> opened(String thing, List<SettingField> fields, Map<String, String> settings) {
        Map<String, String> clear = new TreeMap<>(settings);
        for (SettingField field : fields) {
            clear.putIfAbsent(field.name(), field.isSecret() ? "" : field.initial());
            if (field.isSecret()) {
                try {
                    clear.compute(field.name(), (name, text) -> open(text, thing, fields, settings));
                } catch (SecretBox.NotForThis elsewhere) {
                    throw new IllegalArgumentException(
                            "The " + field.label().toLowerCase(java.util.Locale.ROOT)
                                    + " was kept for another address or user and is not sent to this one. Type it again.",
                            elsewhere);
                }
            }
        }
        Map<String, String> problems = SettingField.problems(fields, clear);
        if (!problems.isEmpty()) {
            throw new IllegalArgumentException("Its settings cannot be used. " + String.join(" ", problems.values()));
        }
        return clear;
    }

    /**
     * Settings as they may be stored: what came in clear is sealed, and a secret that was kept for something else is emptied.
     * One whose key is not here stays as it is.
     */
    public Map<String, String> sealed(String thing, List<SettingField> fields, Map<String, String> settings) {
        Map<String, String> sealed = new TreeMap<>(settings);
        String about = about(thing, fields, settings);
        for (SettingField field : fields) {
            if (!field.isSecret()) {
                continue;
            }
            String text = settings.getOrDefault(field.name(), "");
            if (!text.startsWith(SecretBox.MARK)) {
                sealed.put(field.name(), text.isEmpty() ? "" : box.seal(text, about));
                continue;
            }
            try {
                open(text, thing, fields, settings);
            } catch (SecretBox.NotForThis elsewhere) {
                sealed.put(field.name(), "");
            } catch (IllegalArgumentException keyIsNotHere) {
                // it may be brought back
            }
        }
        return sealed;
    }

    /** The secrets of one thing for a copy of it that reaches the same place. */
    public Map<String, String> copied(String from, String to, List<SettingField> fields, Map<String, String> settings) {
        Map<String, String> copy = new TreeMap<>(settings);
        fields.stream()
                .filter(SettingField::isSecret)
                .forEach(field ->
                        copy.computeIfPresent(field.name(), (name, text) -> open(text, from, fields, settings)));
        return sealed(to, fields, copy);
    }

    /** Whether a secret that is kept would have to be typed again for these settings. */
    public boolean asks(
            String thing,
            List<SettingField> fields,
            SettingField secret,
            Map<String, String> before,
            Map<String, String> next) {
        String kept = before.getOrDefault(secret.name(), "");
        if (kept.isEmpty() || about(thing, fields, before).equals(about(thing, fields, next))) {
            return false;
        }
        try {
            return !open(kept, thing, fields, before).isEmpty();
        } catch (IllegalArgumentException cannotBeOpened) {
            return true;
        }
    }
}
