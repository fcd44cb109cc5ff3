package dachshund.core.destination;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.destination.WriteMode.Call;
import java.util.List;
import org.junit.jupiter.api.Test;

/** An argument keeps its column, whatever becomes of the others. */
class CallTest {

    private final Call call = new Call("store", List.of("p_time", "p_temp"), List.of("record_time", "outlet"));

    @Test
    void argumentsFollowTheirColumnsWhenTheseAreMovedOrRenamed() {
        assertThat(call.bind(List.of("outlet", "record_time")).places()).containsExactly(1, 0);
        assertThat(call.renamed("outlet", "outlet_c")
                        .bind(List.of("record_time", "outlet_c"))
                        .places())
                .containsExactly(0, 1);
    }

    @Test
    void aColumnThatIsGoneOrNewIsSaidAndNothingIsCalled() {
        assertThat(call.bind(List.of("record_time", "fan")).problem())
                .isEqualTo("The argument p_temp of store is given by the column outlet, which the row does not have.");
        assertThat(call.bind(List.of("record_time", "outlet", "fan")).problem())
                .isEqualTo("No argument of store takes the column fan.");
    }

    @Test
    void whatWasDesignedByOrderStaysSoAsLongAsTheNumberFits() {
        Call byOrder = new Call("store", List.of("a", "b"));
        assertThat(byOrder.bind(List.of("x", "y")).places()).containsExactly(0, 1);
        assertThat(byOrder.bind(List.of("x")).problem()).contains("The row has 1 columns");
    }
}
