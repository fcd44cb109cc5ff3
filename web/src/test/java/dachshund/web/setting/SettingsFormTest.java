package dachshund.web.setting;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.secret.Seals;
import dachshund.core.secret.SecretBox;
import dachshund.core.source.SettingField;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class SettingsFormTest {

    private static final SecretBox BOX = new SecretBox(new byte[32]);
    private static final Seals SEALS = new Seals(BOX);
    private static final List<SettingField> FIELDS = List.of(
            SettingField.text("host", "Host", "", "").reaching(),
            SettingField.text("user", "User", "", "").reaching(),
            SettingField.secret("password", "Password"),
            SettingField.text("authority", "Certificate of the authority", "", "")
                    .lines());

    private Map<String, String> stored;

    @BeforeEach
    void kept() {
        stored = SEALS.sealed("thing", FIELDS, Map.of("host", "mail", "user", "plant", "password", "pellets"));
    }

    private static SettingsForm typed(String... pairs) {
        Map<String, String> all = new HashMap<>(Map.of("host", "mail", "user", "plant", "id", "thing"));
        for (int i = 0; i < pairs.length; i += 2) {
            all.put(pairs[i], pairs[i + 1]);
        }
        return SettingsForm.read(FIELDS, all, BOX);
    }

    private String password(SettingsForm form) {
        return SEALS.opened("thing", FIELDS, form.sealed("thing", stored, SEALS, BOX))
                .get("password");
    }

    @Test
    void aPasswordLeftEmptyIsKeptForTheSameAddressAndUser() {
        SettingsForm form = typed();
        assertThat(form.askedAgain("thing", stored, SEALS)).isEmpty();
        assertThat(password(form)).isEqualTo("pellets");
    }

    @Test
    void forAnotherAddressOrUserItIsAskedForAgain() {
        assertThat(typed("host", "elsewhere").askedAgain("thing", stored, SEALS))
                .containsOnlyKeys("password");
        assertThat(typed("user", "other").askedAgain("thing", stored, SEALS)).containsOnlyKeys("password");
    }

    @Test
    void whereNobodySignsInItIsNeitherAskedForNorKept() {
        SettingsForm form = typed("user", " ", "host", "elsewhere");
        assertThat(form.askedAgain("thing", stored, SEALS)).isEmpty();
        assertThat(password(form)).isEmpty();
    }

    @Test
    void whatIsAcceptedBesideAFieldBecomesAFurtherLineOfIt() {
        assertThat(typed("authority", "first", "accept-authority", "second\r\nthird\r\n")
                        .value("authority"))
                .isEqualTo("first\nsecond\nthird");
        assertThat(typed("accept-authority", "second").value("authority")).isEqualTo("second");
    }
}
