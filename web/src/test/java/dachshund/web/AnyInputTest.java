package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.office.definition.Definitions;
import dachshund.office.definition.Drafts;
import java.io.IOException;
import java.net.URLEncoder;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Function;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.springframework.core.DefaultParameterNameDiscoverer;
import org.springframework.core.MethodParameter;
import org.springframework.web.bind.annotation.RequestMethod;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.method.HandlerMethod;
import org.springframework.web.servlet.mvc.method.RequestMappingInfo;
import org.springframework.web.servlet.mvc.method.annotation.RequestMappingHandlerMapping;

/**
 * Every address that the application has, as its own routing lists them, is asked with things that nobody should send: nothing, far too
 * much, other alphabets, numbers out of range, markup. Whatever comes back is an answer, never a fault of ours, and what runs is the same.
 */
class AnyInputTest {

    private static final List<String> STRANGE = List.of(
            "",
            " ",
            "0",
            "-1",
            "999999999999",
            "1e999",
            "NaN",
            "ä'\"<b>&;--",
            "日本語",
            "\u0000",
            "{",
            "{\"",
            "[]",
            "../..",
            "a,b\nc;d",
            "true",
            "10 ms",
            "2026-02-30",
            "25:61",
            "* * * *",
            "x".repeat(20_000),
            "\uD83D\uDE00".repeat(80),
            "=cmd()",
            "null");
    /** What forms send whose fields depend on a kind. */
    private static final List<String> OF_FORMS = List.of(
            "name",
            "description",
            "kind",
            "host",
            "port",
            "database",
            "user",
            "password",
            "file",
            "folder",
            "endpoint",
            "rows",
            "seconds",
            "period",
            "times",
            "zone",
            "missed",
            "line",
            "condition",
            "edge",
            "deadband",
            "amount",
            "atLeast",
            "notMoreOften",
            "debounce",
            "holdOff",
            "type",
            "source",
            "of",
            "value",
            "decimals",
            "factor",
            "offset",
            "low",
            "high",
            "words",
            "badQuality",
            "formula",
            "address",
            "unit",
            "table",
            "register",
            "topic",
            "path",
            "start",
            "end",
            "days",
            "holidays",
            "belongs");
    /** Addresses that a stranger's input should not end this test with. */
    private static final Set<String> LEFT_OUT = Set.of("/sign-out", "/pulse", "/error");

    private static final Pattern VARIABLE = Pattern.compile("\\{(\\w+)[^}]*}");

    private static Site site;
    private static Visitor visitor;
    private static String live;
    private final Random random = new Random(20261125);

    /** One address with the names of what may be sent there. */
    private record Address(RequestMethod method, String pattern, List<String> fields) {}

    @BeforeAll
    static void start() throws Exception {
        site = Site.demo();
        visitor = new Visitor(site).signIn("engineer", "engineer-demo");
        live = whatIsLive();
    }

    @AfterEach
    void whatRunsIsTheSame() throws Exception {
        assertThat(whatIsLive()).isEqualTo(live);
    }

    @AfterAll
    static void discard() throws Exception {
        visitor.post("/release/discard");
    }

    private static String whatIsLive() {
        return site.bean(Definitions.class).live().toString();
    }

    private static List<Address> addresses(RequestMethod method) {
        List<Address> all = new ArrayList<>();
        for (Map.Entry<RequestMappingInfo, HandlerMethod> each : site.bean(RequestMappingHandlerMapping.class)
                .getHandlerMethods()
                .entrySet()) {
            if (!each.getKey().getMethodsCondition().getMethods().contains(method)) {
                continue;
            }
            List<String> fields = new ArrayList<>();
            for (MethodParameter parameter : each.getValue().getMethodParameters()) {
                parameter.initParameterNameDiscovery(new DefaultParameterNameDiscoverer());
                RequestParam asked = parameter.getParameterAnnotation(RequestParam.class);
                if (asked != null && parameter.getParameterType() == Map.class) {
                    fields.addAll(OF_FORMS);
                } else if (asked != null) {
                    fields.add(asked.name().isEmpty() ? parameter.getParameterName() : asked.name());
                }
            }
            for (String pattern : each.getKey().getPatternValues()) {
                if (!LEFT_OUT.contains(pattern) && !pattern.startsWith("/api/") && !pattern.endsWith("/events")) {
                    all.add(new Address(method, pattern, fields));
                }
            }
        }
        return all;
    }

    /** Real ids of everything that is designed, by the word that begins its address. */
    private static Map<String, List<String>> ids() {
        return site.bean(Definitions.class).all(Definition.class).stream()
                .collect(Collectors.groupingBy(
                        each -> each.getClass().getSimpleName(),
                        Collectors.mapping(Definition::id, Collectors.toList())));
    }

    private String filled(String pattern, Function<String, String> value) {
        Matcher variables = VARIABLE.matcher(pattern);
        return variables.replaceAll(
                match -> Matcher.quoteReplacement(URLEncoder.encode(value.apply(match.group(1)), StandardCharsets.UTF_8)
                        .replace("+", "%20")));
    }

    private String real(String pattern, String variable) {
        String kind = pattern.startsWith("/records/destinations") || variable.equals("destination")
                ? "DestinationDefinition"
                : pattern.startsWith("/records") || pattern.startsWith("/watch")
                        ? "RecorderDefinition"
                        : pattern.startsWith("/plant/classes")
                                ? "EquipmentClassDefinition"
                                : pattern.startsWith("/plant/equipment") ? "EquipmentDefinition" : "SourceDefinition";
        List<String> ids = ids().getOrDefault(kind, List.of("none"));
        return variable.equals("index")
                        || variable.equals("at")
                        || variable.equals("column")
                        || variable.equals("number")
                ? Integer.toString(random.nextInt(3))
                : ids.get(random.nextInt(ids.size()));
    }

    private static void answered(HttpResponse<String> answer, Address address, List<String> sent, Set<String> faults) {
        String body = answer.body();
        if (answer.statusCode() >= 500
                || body.contains("Exception")
                || body.contains("Whitelabel")
                || body.contains("\tat ")) {
            faults.add(address.method() + " " + address.pattern() + " with "
                    + sent.stream()
                            .map(each ->
                                    each.length() > 40 ? each.substring(0, 40) + "… (" + each.length() + ")" : each)
                            .toList()
                    + " said " + answer.statusCode() + ": "
                    + body.replaceAll("<[^>]+>|\\s+", " ")
                            .strip()
                            .replaceAll("\\s+", " ")
                            .substring(
                                    0,
                                    Math.min(
                                            200,
                                            body.replaceAll("<[^>]+>|\\s+", " ")
                                                    .strip()
                                                    .replaceAll("\\s+", " ")
                                                    .length())));
        }
    }

    @Test
    void everyPageAnswersWhateverItIsAsked() throws Exception {
        Set<String> faults = new TreeSet<>();
        List<Address> pages = addresses(RequestMethod.GET);
        assertThat(pages).as("found by the routing").hasSizeGreaterThan(40);
        for (Address page : pages) {
            for (int round = 0; round < 6; round++) {
                boolean known = round < 3;
                List<String> sent = new ArrayList<>();
                String path = filled(
                        page.pattern(),
                        variable -> known
                                ? real(page.pattern(), variable)
                                : List.of("zzzzzzzz", "-1", "99999999999", "ä b")
                                        .get(random.nextInt(4)));
                if (round > 0) {
                    for (String field : page.fields()) {
                        String value = STRANGE.get(random.nextInt(STRANGE.size()));
                        sent.add(field + "=" + value);
                        path += (path.contains("?") ? "&" : "?") + field + "="
                                + URLEncoder.encode(
                                        value.substring(0, Math.min(value.length(), 3000)), StandardCharsets.UTF_8);
                    }
                }
                answered(visitor.get(path), page, sent, faults);
            }
        }
        assertThat(faults).isEmpty();
    }

    @Test
    void everyFormAnswersWhateverItIsSent() throws Exception {
        Set<String> faults = new TreeSet<>();
        List<Address> forms = addresses(RequestMethod.POST).stream()
                .filter(each -> !each.pattern().startsWith("/people")
                        && !each.pattern().contains("/write")
                        && !each.pattern().matches("/release|.*/(stop|start|pause|resume)"))
                .toList();
        assertThat(forms).as("found by the routing").hasSizeGreaterThan(60);
        for (Address form : forms) {
            for (int round = 0; round < 10; round++) {
                boolean known = round % 8 != 7;
                Map<String, String> fields = new HashMap<>();
                if (round > 0) {
                    form.fields().forEach(field -> fields.put(field, STRANGE.get(random.nextInt(STRANGE.size()))));
                }
                String path = filled(form.pattern(), variable -> known ? real(form.pattern(), variable) : "zzzzzzzz");
                if (form.fields().contains("seen") && round > 1) {
                    fields.put("seen", seen(path)); // beyond the question whether somebody else was quicker
                }
                String[] sent = fields.entrySet().stream()
                        .flatMap(each -> List.of(each.getKey(), each.getValue()).stream())
                        .toArray(String[]::new);
                try {
                    answered(visitor.post(path, sent), form, Arrays.asList(sent), faults);
                } catch (IOException broken) {
                    faults.add(form.method() + " " + form.pattern() + " with " + fields + " broke off: "
                            + broken.getMessage());
                }
                // Drafts that this made are not what the next one meets.
                site.bean(Definitions.class).drafts().forEach(draft -> site.bean(Drafts.class)
                        .discard(draft.id(), "engineer"));
            }
        }
        assertThat(faults).isEmpty();
    }

    private static String seen(String path) {
        return java.util.Arrays.stream(path.split("/"))
                .filter(part -> site.bean(Definitions.class).find(part).isPresent())
                .findFirst()
                .map(id -> Integer.toString(site.bean(Drafts.class).revision(id)))
                .orElse("0");
    }
}
