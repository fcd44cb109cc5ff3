package dachshund.core.text;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class WorkbookTextTest {

    /** ECMA-376 part 1, 22.9.2.19 ST_Xstring; from memory. */
    @ParameterizedTest
    @CsvSource({"a_x0041_b, a_x005F_x0041_b", "_x00zz_, _x00zz_", "x0041_, x0041_", "__x0041_, __x005F_x0041_", "ä, ä"})
    void whatLooksLikeAnEscapeIsEscaped(String text, String cell) {
        assertThat(WorkbookText.out(text)).isEqualTo(cell);
        assertThat(WorkbookText.in(cell)).isEqualTo(text);
    }

    @Test
    void whatXmlCannotHaveIsWritten() {
        assertThat(WorkbookText.out("a\u0000b\u0001\t\r\n")).isEqualTo("a_x0000_b_x0001_\t\r\n");
        assertThat(WorkbookText.out("\uD83D\uDE00 \uD83D")).isEqualTo("\uD83D\uDE00 _xD83D_");
    }

    @Test
    void everyTextIsReadBackEqual() {
        Random chance = new Random(7);
        String letters = "_x0A4F5\u0000\u0001\u001F\uFFFF\tä";
        for (int i = 0; i < 20_000; i++) {
            StringBuilder text = new StringBuilder();
            for (int n = chance.nextInt(30); n > 0; n--) {
                text.append(letters.charAt(chance.nextInt(letters.length())));
            }
            String cell = WorkbookText.out(text.toString());
            assertThat(WorkbookText.in(cell)).isEqualTo(text.toString());
            assertThat(cell.chars().allMatch(letter -> letter >= ' ' && letter < 0xFFFE || letter == '\t'))
                    .isTrue();
        }
    }
}
