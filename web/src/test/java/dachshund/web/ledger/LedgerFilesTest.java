package dachshund.web.ledger;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.when;

import dachshund.core.window.Span;
import dachshund.core.window.WindowProblem;
import dachshund.office.audit.Audit;
import dachshund.office.ledger.LedgerTable;
import dachshund.office.window.Windows;
import dachshund.web.ledger.LedgerController.Asked;
import dachshund.web.page.Times;
import java.security.Principal;
import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.mock.web.MockHttpServletResponse;

/** Seen: a file that could not be written to its end looked whole, and one of a wrong window like a ledger without runs. */
class LedgerFilesTest {

    private final LedgerTable ledger = mock(LedgerTable.class);
    private final Windows windows = mock(Windows.class);
    private final Principal by = () -> "engineer";
    private final LedgerController files =
            new LedgerController(ledger, null, windows, null, mock(Times.class), mock(Audit.class), null);

    private void breaksOff(Class<? extends Exception> how) {
        Asked asked = new Asked("abc", "", "", "", "", "");
        MockHttpServletResponse csv = new MockHttpServletResponse();
        assertThatThrownBy(() -> files.csv(asked, by, csv)).isInstanceOf(how);
        assertThat(csv.isCommitted()).isFalse();
        MockHttpServletResponse lines = new MockHttpServletResponse();
        assertThatThrownBy(() -> files.lines(asked, by, lines)).isInstanceOf(how);
        assertThat(lines.isCommitted()).isFalse();
    }

    @Test
    void aWindowThatCannotBeReadIsNoEmptyFile() throws Exception {
        when(windows.span(any())).thenThrow(mock(WindowProblem.class));
        breaksOff(WindowProblem.class);
    }

    @Test
    void aDatabaseThatGoesAwayIsNoShorterFile() throws Exception {
        when(windows.span(any())).thenReturn(new Span(Instant.EPOCH, Instant.EPOCH, false));
        when(ledger.find(any(LedgerTable.Wanted.class))).thenThrow(new DataAccessResourceFailureException("gone"));
        breaksOff(DataAccessResourceFailureException.class);
    }
}
