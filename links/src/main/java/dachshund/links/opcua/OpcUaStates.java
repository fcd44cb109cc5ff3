package dachshund.links.opcua;

import java.util.Arrays;
import java.util.Objects;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.eclipse.milo.opcua.stack.core.types.builtin.LocalizedText;
import org.eclipse.milo.opcua.stack.core.types.structured.EnumDefinition;
import org.eclipse.milo.opcua.stack.core.types.structured.EnumValueType;

/**
 * What a server says of the states that a value stands for: words of an enumeration (OPC 10000-3, EnumStrings, EnumValues and,
 * as an attribute of the type, DataTypeDefinition) and of discrete items (OPC 10000-8, TrueState and FalseState). Sections
 * from memory.
 */
final class OpcUaStates {

    /** Properties that say so. */
    static final Set<String> NAMES = Set.of("EnumStrings", "EnumValues", "TrueState", "FalseState");

    /** The attribute of a data type that says so. */
    static final String DEFINITION = "DataTypeDefinition";

    private OpcUaStates() {}

    /** Lines such as 1=run; empty where the property says nothing of states. */
    static String words(String property, Object value) {
        if (value instanceof LocalizedText text && !word(text).isEmpty()) {
            return property.equals("TrueState")
                    ? "true=" + word(text)
                    : property.equals("FalseState") ? "false=" + word(text) : "";
        }
        if (value instanceof LocalizedText[] texts && property.equals("EnumStrings")) {
            return IntStream.range(0, texts.length)
                    .filter(code -> !word(texts[code]).isEmpty())
                    .mapToObj(code -> code + "=" + word(texts[code]))
                    .collect(Collectors.joining("\n"));
        }
        if (value instanceof Object[] entries && property.equals("EnumValues")) {
            return Arrays.stream(entries)
                    .map(entry ->
                            entry instanceof EnumValueType each ? line(each.getValue(), each.getDisplayName()) : null)
                    .filter(Objects::nonNull)
                    .collect(Collectors.joining("\n"));
        }
        if (value instanceof EnumDefinition defined && property.equals(DEFINITION) && defined.getFields() != null) {
            return Arrays.stream(defined.getFields())
                    .filter(field -> field != null && field.getValue() != null)
                    .map(field -> word(field.getDisplayName()).isEmpty()
                            ? line(field.getValue(), LocalizedText.english(field.getName()))
                            : line(field.getValue(), field.getDisplayName()))
                    .filter(Objects::nonNull)
                    .collect(Collectors.joining("\n"));
        }
        return "";
    }

    private static String line(Long code, LocalizedText text) {
        return word(text).isEmpty() ? null : code + "=" + word(text);
    }

    /** One line, whatever the server sends. */
    private static String word(LocalizedText text) {
        return text == null || text.getText() == null
                ? ""
                : text.getText().strip().replaceAll("\\R", " ");
    }
}
