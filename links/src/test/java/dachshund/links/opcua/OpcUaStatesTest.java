package dachshund.links.opcua;

import static org.assertj.core.api.Assertions.assertThat;

import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.structured.EnumDefinition;
import org.eclipse.milo.opcua.stack.core.types.structured.EnumField;
import org.eclipse.milo.opcua.stack.core.types.structured.EnumValueType;
import org.junit.jupiter.api.Test;

/** What servers say of states, in each of the standard's ways, and what only looks like it. */
class OpcUaStatesTest {

    private static LocalizedText text(String text) {
        return LocalizedText.english(text);
    }

    @Test
    void wordsByTheirPlaceByTheirValueAndOfTwoStates() {
        assertThat(OpcUaStates.words("EnumStrings", new LocalizedText[] {text("off"), text(""), text("on\r\nnow")}))
                .isEqualTo("0=off\n2=on now");
        assertThat(OpcUaStates.words("EnumValues", new Object[] {
                    new EnumValueType(-1L, text("unknown"), text("")), new EnumValueType(100L, text("run"), text(""))
                }))
                .isEqualTo("-1=unknown\n100=run");
        assertThat(OpcUaStates.words("TrueState", text("open"))).isEqualTo("true=open");
        assertThat(OpcUaStates.words("FalseState", text("closed"))).isEqualTo("false=closed");
    }

    @Test
    void wordsOfADefinitionAreShownAsForPeopleAndByNameWhereThereAreNone() {
        assertThat(OpcUaStates.words("DataTypeDefinition", new EnumDefinition(new EnumField[] {
                    new EnumField(0L, text("under weight"), text(""), "Under"),
                    new EnumField(4L, LocalizedText.NULL_VALUE, text(""), "Over"),
                    new EnumField(5L, null, null, null),
                    null
                })))
                .isEqualTo("0=under weight\n4=Over");
        assertThat(OpcUaStates.words("DataTypeDefinition", new EnumDefinition(null)))
                .isEmpty();
    }

    @Test
    void whatSaysNothingOfStatesIsLeft() {
        assertThat(OpcUaStates.words("EnumStrings", null)).isEmpty();
        assertThat(OpcUaStates.words("EnumStrings", "run")).isEmpty();
        assertThat(OpcUaStates.words("EnumValues", new Object[] {"run", null})).isEmpty();
        assertThat(OpcUaStates.words("EnumStrings", new LocalizedText[] {null, LocalizedText.NULL_VALUE}))
                .isEmpty();
        assertThat(OpcUaStates.words("Title", text("open"))).isEmpty();
    }
}
