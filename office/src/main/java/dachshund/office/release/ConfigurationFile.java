package dachshund.office.release;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dachshund.core.definition.Definition;
import dachshund.core.definition.DefinitionCodec;
import dachshund.core.secret.SecretBox;
import dachshund.office.definition.Definitions;
import dachshund.office.filing.Filed;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.UnaryOperator;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * A whole configuration as one JSON file (RFC 8259): every definition with its tags, without secrets, which only this
 * installation could open.
 */
public final class ConfigurationFile {

    private static final ObjectMapper JSON = new ObjectMapper();
    private static final String MARK = "dachshund configuration";
    private static final String FILED = "filed";

    private ConfigurationFile() {}

    /**
     * What a file brings.
     *
     * @param definitions under the ids they have here
     * @param secrets     names of things whose secrets have to be typed anew
     * @param filed       where things are filed, by the id they have here; those of which the file says nothing are left out
     */
    public record Taken(List<Definition> definitions, List<String> secrets, Map<String, Filed> filed) {}

    /**
     * Definitions as a file, without secrets.
     *
     * @param filed where each is filed, by its id
     */
    public static String write(List<Definition> definitions, Function<String, Filed> filed) {
        ObjectNode file = JSON.createObjectNode();
        file.put("file", MARK).put("schemaVersion", DefinitionCodec.SCHEMA_VERSION);
        ArrayNode all = file.putArray("definitions");
        try {
            for (Definition definition : definitions.stream()
                    .sorted(Comparator.comparing(Definition::kind).thenComparing(Definition::name))
                    .toList()) {
                JsonNode document = JSON.readTree(DefinitionCodec.write(definition));
                if (document.path("settings") instanceof ObjectNode settings) {
                    settings.properties().stream()
                            .filter(setting -> setting.getValue().asText().startsWith(SecretBox.MARK))
                            .toList()
                            .forEach(setting -> settings.put(setting.getKey(), ""));
                }
                Filed where = filed.apply(definition.id());
                if (!where.equals(Filed.NOWHERE) && document instanceof ObjectNode thing) {
                    thing.putPOJO(FILED, where);
                }
                all.add(document);
            }
            return JSON.writerWithDefaultPrettyPrinter().writeValueAsString(file);
        } catch (JsonProcessingException impossible) {
            throw new IllegalStateException("The configuration could not be written.", impossible);
        }
    }

    /**
     * @param here what is there; a thing of the same kind and name is the same thing, and its secrets are kept
     * @param sealed makes of a definition what may be stored
     * @throws IllegalArgumentException with a sentence, where the file is none
     */
    public static Taken read(String text, List<Definition> here, UnaryOperator<Definition> sealed) {
        JsonNode file;
        try {
            file = JSON.readTree(text);
        } catch (JsonProcessingException notJson) {
            throw new IllegalArgumentException(
                    "This is no JSON: "
                            + notJson.getOriginalMessage().lines().findFirst().orElse("") + ".",
                    notJson);
        }
        if (file == null
                || !file.path("file").asText().equals(MARK)
                || !file.path("definitions").isArray()) {
            throw new IllegalArgumentException("This is JSON, but no configuration that was exported here.");
        }
        List<Definition> brought = new ArrayList<>();
        Map<String, Filed> filed = new LinkedHashMap<>();
        for (JsonNode document : file.path("definitions")) {
            if (!document.path("id").asText().matches("[0-9a-f]{8}")) {
                throw new IllegalArgumentException("Definition " + (brought.size() + 1) + " ("
                        + document.path("name").asText("without a name")
                        + ") has no id of 8 hexadecimal digits, as every definition that was exported here has.");
            }
            try {
                filed(document).ifPresent(where -> filed.put(document.path("id").asText(), where));
                ((ObjectNode) document).remove(FILED);
                brought.add(DefinitionCodec.read(document.toString()));
            } catch (IllegalArgumentException problem) {
                throw new IllegalArgumentException(
                        "Definition " + (brought.size() + 1) + " ("
                                + document.path("name").asText("without a name") + ") cannot be read: "
                                + problem.getMessage(),
                        problem);
            }
        }
        Map<String, String> ids = new LinkedHashMap<>();
        Set<String> seen = new HashSet<>();
        for (Definition definition : brought) {
            if (!seen.add(definition.id())) {
                throw new IllegalArgumentException("Two definitions of this file have the id " + definition.id()
                        + "; the second is " + definition.name() + ".");
            }
            if (here.stream()
                    .anyMatch(each ->
                            each.id().equals(definition.id()) && !each.kind().equals(definition.kind()))) {
                ids.put(definition.id(), Definitions.newId());
            }
            boolean known = here.stream()
                    .anyMatch(each ->
                            each.id().equals(definition.id()) && each.kind().equals(definition.kind()));
            here.stream()
                    .filter(each -> !known
                            && each.kind().equals(definition.kind())
                            && each.name().equalsIgnoreCase(definition.name()))
                    .findFirst()
                    .ifPresent(each -> ids.put(definition.id(), each.id()));
        }
        List<Definition> taken = new ArrayList<>();
        brought.forEach(definition -> taken.add(sealed.apply(withSecrets(renumbered(definition, ids), here))));
        return new Taken(
                taken,
                taken.stream()
                        .filter(ConfigurationFile::wantsPassword)
                        .map(Definition::name)
                        .toList(),
                filed.entrySet().stream()
                        .collect(Collectors.toMap(
                                each -> ids.getOrDefault(each.getKey(), each.getKey()), Map.Entry::getValue)));
    }

    /** Sources had theirs among the rest once. */
    private static Optional<Filed> filed(JsonNode document) {
        JsonNode where = document.has(FILED) ? document.path(FILED) : document;
        if (!where.has("folder") && !where.has("labels")) {
            return Optional.empty();
        }
        List<String> labels = new ArrayList<>();
        where.path("labels").forEach(label -> labels.add(label.asText()));
        return Optional.of(Filed.read(where.path("folder").asText(), String.join(",", labels)));
    }

    /** The same under the ids that things have here; ids are drawn from four thousand million, so they are nothing else. */
    private static Definition renumbered(Definition definition, Map<String, String> ids) {
        String document = DefinitionCodec.write(definition);
        for (Map.Entry<String, String> id : ids.entrySet()) {
            document = document.replaceAll("\\b" + Pattern.quote(id.getKey()) + "\\b", id.getValue());
        }
        return DefinitionCodec.read(document);
    }

    /** The settings of the file with the secrets that are kept here: these open for the address they were kept for only. */
    private static Definition withSecrets(Definition definition, List<Definition> here) {
        Map<String, String> own = here.stream()
                .filter(each -> each.id().equals(definition.id()))
                .findFirst()
                .map(Definition::settings)
                .orElse(Map.of());
        return definition.withSettings(kept(definition.settings(), own));
    }

    private static Map<String, String> kept(Map<String, String> brought, Map<String, String> own) {
        Map<String, String> settings = new LinkedHashMap<>(brought);
        settings.values().removeIf(value -> value.startsWith(SecretBox.MARK)); // no seal comes from outside
        own.forEach((setting, value) -> {
            if (value.startsWith(SecretBox.MARK)
                    && settings.getOrDefault(setting, "").isEmpty()) {
                settings.put(setting, value);
            }
        });
        return settings;
    }

    private static boolean wantsPassword(Definition definition) {
        return definition.settings().entrySet().stream()
                .anyMatch(setting ->
                        setting.getKey().toLowerCase(java.util.Locale.ROOT).contains("password")
                                && setting.getValue().isEmpty());
    }
}
