package dachshund.web.setting;

import dachshund.core.secret.SecretBox;
import dachshund.core.source.SettingField;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;

/**
 * The settings of a source or destination while a form is being filled. Secrets that were typed go to the page and come
 * back sealed, so that a form refused for another field need not ask again; only we can open them.
 */
public final class SettingsForm {

    private final List<SettingField> fields;
    private final Map<String, String> settings;
    private final Map<String, String> kept;
    private final boolean stored;

    private SettingsForm(
            List<SettingField> fields, Map<String, String> settings, Map<String, String> kept, boolean stored) {
        this.fields = fields;
        this.settings = settings;
        this.kept = kept;
        this.stored = stored;
    }

    /** A form nobody has filled yet. */
    public static SettingsForm initial(List<SettingField> fields) {
        Map<String, String> settings = new TreeMap<>();
        fields.forEach(field -> settings.put(field.name(), field.initial()));
        return new SettingsForm(fields, settings, Map.of(), false);
    }

    /** A form for settings that are kept already. */
    public static SettingsForm of(List<SettingField> fields, Map<String, String> settings) {
        Map<String, String> open = new TreeMap<>();
        fields.forEach(field ->
                open.put(field.name(), field.isSecret() ? "" : settings.getOrDefault(field.name(), field.initial())));
        return new SettingsForm(fields, open, Map.of(), true);
    }

    /** A form as it came back from a page. */
    public static SettingsForm read(List<SettingField> fields, Map<String, String> all, SecretBox secrets) {
        Map<String, String> settings = new TreeMap<>();
        Map<String, String> kept = new TreeMap<>();
        for (SettingField field : fields) {
            String typed = all.getOrDefault(field.name(), field.form() == SettingField.Form.YES_NO ? "false" : "");
            settings.put(field.name(), field.isSecret() ? typed : typed.strip().replace("\r", ""));
            String before = all.getOrDefault("kept-" + field.name(), "");
            if (field.isSecret() && (!typed.isEmpty() || before.startsWith(SecretBox.MARK))) {
                kept.put(field.name(), typed.isEmpty() ? before : secrets.seal(typed));
            }
        }
        return new SettingsForm(
                fields, settings, kept, !all.getOrDefault("id", "").isEmpty() || !kept.isEmpty());
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

    /** Whether there may be secrets that a field left empty keeps. */
    public boolean stored() {
        return stored;
    }

    /** Settings as kept: secrets sealed; a secret left empty stays what it was. */
    public Map<String, String> sealed(Map<String, String> before, SecretBox secrets) {
        Map<String, String> sealed = new TreeMap<>(settings);
        for (SettingField field : fields) {
            if (field.isSecret()) {
                String next = kept.getOrDefault(field.name(), before.getOrDefault(field.name(), ""));
                sealed.put(field.name(), next.isEmpty() ? secrets.seal("") : next);
            }
        }
        return sealed;
    }
}
