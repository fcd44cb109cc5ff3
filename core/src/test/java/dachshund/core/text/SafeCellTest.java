package dachshund.core.text;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Cells that a spreadsheet would take for a formula are made safe; others stay as they are. */
class SafeCellTest {

    @ParameterizedTest
    @CsvSource(
            textBlock =
                    """
            =1+1          | '=1+1
            '=1+1         | ''=1+1
            'tis          | 'tis
            @SUM(A1)      | '@SUM(A1)
            +44           | '+44
            -cmd          | '-cmd
            PL1-261124-02 | PL1-261124-02
            """,
            delimiter = '|',
            quoteCharacter = '~')
    void textsAreMadeSafe(String text, String safe) {
        assertThat(SafeCell.out(text)).isEqualTo(safe);
        assertThat(SafeCell.in(safe)).isEqualTo(text);
    }

    @Test
    void aNegativeNumberStaysANumber() {
        assertThat(SafeCell.outUnlessNumber("-0.5")).isEqualTo("-0.5");
        assertThat(SafeCell.outUnlessNumber("-10 to 50")).isEqualTo("'-10 to 50");
    }
}
