package dachshund.web.setting;

import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.SettingField;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;

/**
 * The settings of a source or destination while a form is being filled. Secrets that were typed go to the page and come
 * back sealed, so that a form refused for another field need not ask again; only we can open them.
 */
public final class SettingsForm {

    /** What a button beside a field adds to it, as a further line, has the field's name behind this. */
    public static final String ACCEPT = "accept-";

    private static final String USER = "user";

    /** What is sealed for a page opens nowhere else. */
    private static final String ABOUT = "a form that is being filled";

    private final List<SettingField> fields;
    private final Map<String, String> settings;
    private final Map<String, String> kept;
    private final Set<String> stored;

    private SettingsForm(
            List<SettingField> fields, Map<String, String> settings, Map<String, String> kept, Set<String> stored) {
        this.fields = fields;
        this.settings = settings;
        this.kept = kept;
        this.stored = stored;
    }

    /** A form nobody has filled yet. */
    public static SettingsForm initial(List<SettingField> fields) {
        Map<String, String> settings = new TreeMap<>();
        fields.forEach(field -> settings.put(field.name(), field.initial()));
        return new SettingsForm(fields, settings, Map.of(), Set.of());
    }

    /** A form for settings that are kept already. */
    public static SettingsForm of(List<SettingField> fields, Map<String, String> settings) {
        Map<String, String> open = new TreeMap<>();
        fields.forEach(field ->
                open.put(field.name(), field.isSecret() ? "" : settings.getOrDefault(field.name(), field.initial())));
        Set<String> stored = new TreeSet<>();
        fields.stream()
                .filter(SettingField::isSecret)
                .map(SettingField::name)
                .filter(name -> !settings.getOrDefault(name, "").isEmpty())
                .forEach(stored::add);
        return new SettingsForm(fields, open, Map.of(), stored);
    }

    /** A form as it came back from a page. */
    public static SettingsForm read(List<SettingField> fields, Map<String, String> all, SecretBox secrets) {
        Map<String, String> settings = new TreeMap<>();
        Map<String, String> kept = new TreeMap<>();
        for (SettingField field : fields) {
            String typed = all.getOrDefault(field.name(), field.form() == SettingField.Form.YES_NO ? "false" : "");
            String added = all.getOrDefault(ACCEPT + field.name(), "");
            settings.put(
                    field.name(),
                    field.isSecret()
                            ? typed
                            : (typed.strip() + "\n" + added).strip().replace("\r", ""));
            String before = all.getOrDefault("kept-" + field.name(), "");
            if (field.isSecret() && (!typed.isEmpty() || of(before, secrets))) {
                kept.put(field.name(), typed.isEmpty() ? before : secrets.seal(typed, ABOUT));
            }
        }
        Set<String> stored = new TreeSet<>(kept.keySet());
        fields.stream()
                .map(SettingField::name)
                .filter(name -> all.containsKey("stored-" + name))
                .forEach(stored::add);
        return new SettingsForm(fields, settings, kept, stored);
    }

    /** Whether a text was sealed for a form: no seal of a stored thing comes in by a page. */
    private static boolean of(String text, SecretBox secrets) {
        try {
            return text.startsWith(SecretBox.MARK) && !secrets.open(text, ABOUT).isEmpty();
        } catch (IllegalArgumentException other) {
            return false;
        }
    }

    /** Fields that are always shown. */
    public List<SettingField> plain() {
        return fields.stream().filter(field -> !field.rare()).toList();
    }

    /** Fields that are seldom needed. */
    public List<SettingField> rare() {
        return fields.stream().filter(SettingField::rare).toList();
    }

    /** Whether a problem lies among the fields that are folded. */
    public boolean opens(Map<String, String> problems) {
        return rare().stream().anyMatch(field -> problems.containsKey(field.name()));
    }

    public Map<String, String> settings() {
        return settings;
    }

    public String value(String name) {
        return settings.getOrDefault(name, "");
    }

    /** What a page may show of a setting. */
    public String shown(String name) {
        return fields.stream().anyMatch(field -> field.name().equals(name) && field.isSecret()) ? "" : value(name);
    }

    /** Sealed secrets to take along, by name. */
    public Map<String, String> kept() {
        return kept;
    }

    /** Names of the secrets that a field left empty keeps. */
    public Set<String> stored() {
        return stored;
    }

    /** Where nobody signs in, a password that was kept goes nowhere and is not kept. */
    private boolean withoutUser() {
        return settings.containsKey(USER) && value(USER).isBlank();
    }

    /** A sentence for each secret that was left empty and is kept for another address or user than the form has now. */
    public Map<String, String> askedAgain(String thing, Map<String, String> before, Seals seals) {
        Map<String, String> problems = new TreeMap<>();
        fields.stream()
                .filter(field -> field.isSecret()
                        && !kept.containsKey(field.name())
                        && !withoutUser()
                        && seals.asks(thing, fields, field, before, settings))
                .forEach(
                        field -> problems.put(
                                field.name(),
                                "Type the " + field.label().toLowerCase(java.util.Locale.ROOT)
                                        + " again: the one that is kept is for another address or user, and is not sent to this one."));
        return problems;
    }

    /** Settings as kept for a thing: secrets sealed for it; a secret left empty stays what it was. */
    public Map<String, String> sealed(String thing, Map<String, String> before, Seals seals, SecretBox secrets) {
        Map<String, String> next = new TreeMap<>(settings);
        for (SettingField field : fields) {
            if (field.isSecret()) {
                String typed = kept.getOrDefault(field.name(), "");
                next.put(
                        field.name(),
                        typed.isEmpty()
                                ? (withoutUser() ? "" : before.getOrDefault(field.name(), ""))
                                : secrets.open(typed, ABOUT));
            }
        }
        return seals.sealed(thing, fields, next);
    }
}
