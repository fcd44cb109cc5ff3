package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.definition.Definition;
import dachshund.office.definition.Definitions;
import java.net.URLEncoder;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Random;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.springframework.core.MethodParameter;
import org.springframework.web.bind.annotation.RequestMethod;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.servlet.mvc.method.annotation.RequestMappingHandlerMapping;

/**
 * Requests that nobody would make: every address of the routing, with ids, numbers and parameters of any kind, by everybody.
 * Whatever is asked, the answer is no defect of ours. With {@code -Ddachshund.requests=20000} as many as the issue asks for;
 * fewer in each run, to keep it short.
 */
class RandomRequestsTest {

    private static final int REQUESTS = Integer.getInteger("dachshund.requests", 2500);
    private static final int VISITORS = 4;
    private static final List<String> ODD = List.of(
            "",
            "0",
            "-1",
            "1",
            "2",
            "9999999999999999999",
            "1e308",
            "NaN",
            "true",
            "null",
            "undefined",
            "ROW",
            "%00",
            "\u0000",
            "\ud800",
            "😀",
            "é",
            "'",
            "\"",
            "`; DROP TABLE person; --",
            "<script>alert(1)</script>",
            "${7*7}",
            "__${T(java.lang.Runtime)}__::x",
            "../../../etc/passwd",
            "..\\..\\x",
            "{",
            "[[]]",
            "{\"a\":null}",
            "2026-02-30",
            "0000-00-00",
            "25:61",
            "2026-11-27T06:00:00Z",
            "a".repeat(5000),
            "\r\nSet-Cookie: a=b",
            "a,b,,c",
            "=1+1",
            "mariadb",
            "opcua",
            "sqlite",
            "folder");

    private record Route(RequestMethod method, String pattern, List<String> parameters) {}

    private static List<Route> routes(Site site) {
        List<Route> all = new ArrayList<>();
        site.bean(RequestMappingHandlerMapping.class).getHandlerMethods().forEach((info, method) -> {
            TreeSet<String> parameters = new TreeSet<>(List.of("id", "name", "seen", "q", "kind"));
            for (MethodParameter parameter : method.getMethodParameters()) {
                RequestParam asked = parameter.getParameterAnnotation(RequestParam.class);
                if (asked != null) {
                    parameters.add(
                            !asked.value().isEmpty()
                                    ? asked.value()
                                    : parameter.getParameter().getName());
                }
            }
            for (String pattern : info.getPatternValues()) {
                // Streams do not end, who signs out is out, and a stand-in for the plant is written to on purpose only.
                if (!pattern.matches(".*(events|stream|sign-out|/pulse).*")) {
                    Collection<RequestMethod> methods =
                            info.getMethodsCondition().getMethods();
                    (methods.isEmpty() ? List.of(RequestMethod.GET) : methods)
                            .forEach(each -> all.add(new Route(each, pattern, List.copyOf(parameters))));
                }
            }
        });
        return all;
    }

    @Test
    void noRequestBringsADefectOfOurs() throws Exception {
        try (Site site = new Site(true)) {
            List<Route> routes = routes(site);
            List<String> ids = new ArrayList<>(ODD);
            ids.addAll(site.bean(Definitions.class).live().stream()
                    .map(Definition::id)
                    .toList());
            ids.add("zzzzzzzz");
            Collection<String> wrong = new ConcurrentLinkedQueue<>();
            AtomicInteger asked = new AtomicInteger();
            List<Thread> threads = new ArrayList<>();
            for (int i = 0; i < VISITORS; i++) {
                int seed = i;
                Visitor visitor = new Visitor(site);
                if (i > 0) {
                    String name = List.of("viewer", "engineer", "admin").get(i - 1);
                    visitor.signIn(name, name + "-demo");
                }
                Thread thread = new Thread(() -> ask(visitor, routes, ids, new Random(seed), asked, wrong));
                thread.start();
                threads.add(thread);
            }
            for (Thread thread : threads) {
                thread.join();
            }
            assertThat(wrong).isEmpty();
            assertThat(asked.get()).isGreaterThanOrEqualTo(REQUESTS);
            assertThat(site.bean(dachshund.engine.Engine.class).status())
                    .as("recording goes on")
                    .isNotNull();
        }
    }

    private static void ask(
            Visitor visitor,
            List<Route> routes,
            List<String> ids,
            Random chance,
            AtomicInteger asked,
            Collection<String> wrong) {
        while (asked.getAndIncrement() < REQUESTS && wrong.size() < 20) {
            Route route = routes.get(chance.nextInt(routes.size()));
            String path = path(route.pattern(), ids, chance);
            List<String> fields = new ArrayList<>();
            for (String parameter : route.parameters()) {
                if (chance.nextInt(3) > 0) {
                    fields.add(parameter);
                    fields.add(ids.get(chance.nextInt(ids.size())));
                }
            }
            try {
                HttpResponse<String> answer = route.method() == RequestMethod.GET
                        ? visitor.get(path + query(fields))
                        : visitor.post(path, fields.toArray(String[]::new));
                // Our own database is never away here, so 503 would be a defect as well; a destination that was drafted
                // may be.
                if (answer.statusCode() >= 500 && !answer.body().contains("The destination is away")) {
                    wrong.add(said(route, path, fields) + " brought " + answer.statusCode());
                }
            } catch (IllegalArgumentException unsendable) {
                // an address that no client can make
            } catch (Exception broken) {
                wrong.add(said(route, path, fields) + " broke: " + broken);
            }
        }
    }

    /** So that it can be read in a report. */
    private static String said(Route route, String path, List<String> fields) {
        return route.method() + " " + path + " "
                + fields.stream()
                        .map(RandomRequestsTest::shortly)
                        .toList()
                        .toString()
                        .replaceAll("[^\\x20-\\x7e]", "?");
    }

    private static String path(String pattern, List<String> ids, Random chance) {
        StringBuilder path = new StringBuilder();
        for (String part : pattern.split("(?=\\{)|(?<=})")) {
            path.append(
                    part.startsWith("{")
                            ? URLEncoder.encode(shortly(ids.get(chance.nextInt(ids.size()))), StandardCharsets.UTF_8)
                                    .replace("+", "%20")
                            : part);
        }
        return path.toString().replaceAll("/{2,}", "/");
    }

    private static String shortly(String text) {
        return text.substring(0, Math.min(200, text.length()));
    }

    private static String query(List<String> fields) {
        StringBuilder query = new StringBuilder();
        for (int i = 0; i < fields.size(); i += 2) {
            query.append(i == 0 ? '?' : '&')
                    .append(fields.get(i))
                    .append('=')
                    .append(URLEncoder.encode(shortly(fields.get(i + 1)), StandardCharsets.UTF_8));
        }
        return query.toString();
    }
}
