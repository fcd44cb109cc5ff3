package dachshund.core.time;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.when.When;
import java.time.Duration;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class PeriodTextTest {

    @ParameterizedTest
    @CsvSource({
        "100 ms,100,100 ms",
        "1s,1000,1 s",
        "0.5 s,500,500 ms",
        "'2,5 s',2500,2500 ms",
        "15 min,900000,15 min",
        "8 H,28800000,8 h",
        "90,90000,90 s",
        "24h,86400000,24 h"
    })
    void readsWhatPeopleWriteAndWritesItBack(String text, long millis, String written) {
        assertThat(PeriodText.read(text)).isEqualTo(Duration.ofMillis(millis));
        assertThat(PeriodText.write(Duration.ofMillis(millis))).isEqualTo(written);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "often", "5 parsecs", "-1 s", "1 s 2", "99999999999999999999 h"})
    void saysWhatItCannotRead(String text) {
        assertThatThrownBy(() -> PeriodText.read(text)).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void aRateOutsideItsLimitsIsRefused() {
        assertThatThrownBy(() -> new When.Every(Duration.ofMillis(9))).hasMessageContaining("10 ms");
        assertThatThrownBy(() -> new When.Every(Duration.ofHours(25))).hasMessageContaining("24 h");
    }
}
