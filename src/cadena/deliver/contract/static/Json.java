import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** JSON as maps, lists, texts, numbers (Long or Double), yes or no, and null: no more is needed. */
public final class Json {
  private final String text;
  private int at;

  private Json(String text) {
    this.text = text;
  }

  /** What a text says. */
  public static Object read(String text) {
    Json json = new Json(text);
    Object value = json.value(0);
    json.blank();
    if (json.at < text.length()) throw new IllegalArgumentException("more follows at " + json.at);
    return value;
  }

  /** A value as text. */
  public static String write(Object value) {
    StringBuilder made = new StringBuilder();
    write(value, made);
    return made.toString();
  }

  private static void write(Object value, StringBuilder made) {
    if (value instanceof String said) {
      made.append('"');
      for (char letter : said.toCharArray()) {
        if (letter == '"' || letter == '\\') made.append('\\').append(letter);
        else if (letter < ' ') made.append(String.format("\\u%04x", (int) letter));
        else made.append(letter);
      }
      made.append('"');
    } else if (value instanceof Map<?, ?> map) {
      String before = "{";
      for (Map.Entry<?, ?> each : map.entrySet()) {
        made.append(before);
        write(String.valueOf(each.getKey()), made);
        made.append(':');
        write(each.getValue(), made);
        before = ",";
      }
      made.append(map.isEmpty() ? "{}" : "}");
    } else if (value instanceof List<?> list) {
      String before = "[";
      for (Object each : list) {
        made.append(before);
        write(each, made);
        before = ",";
      }
      made.append(list.isEmpty() ? "[]" : "]");
    } else {
      made.append(value);
    }
  }

  private void blank() {
    while (at < text.length() && " \t\r\n".indexOf(text.charAt(at)) >= 0) at++;
  }

  private Object value(int depth) {
    if (depth > 200) throw new IllegalArgumentException("too deep at " + at);
    blank();
    if (at >= text.length()) throw new IllegalArgumentException("it ends too soon");
    return switch (text.charAt(at)) {
      case '{' -> object(depth);
      case '[' -> array(depth);
      case '"' -> string();
      default -> word();
    };
  }

  private Map<String, Object> object(int depth) {
    Map<String, Object> made = new LinkedHashMap<>();
    at++;
    for (blank(); !taken('}'); blank()) {
      if (!made.isEmpty()) demand(',');
      blank();
      String name = string();
      blank();
      demand(':');
      made.put(name, value(depth + 1));
    }
    return made;
  }

  private List<Object> array(int depth) {
    List<Object> made = new ArrayList<>();
    at++;
    for (blank(); !taken(']'); blank()) {
      if (!made.isEmpty()) demand(',');
      made.add(value(depth + 1));
    }
    return made;
  }

  private boolean taken(char wanted) {
    if (at >= text.length()) throw new IllegalArgumentException("it ends too soon");
    if (text.charAt(at) != wanted) return false;
    at++;
    return true;
  }

  private void demand(char wanted) {
    if (!taken(wanted)) throw new IllegalArgumentException(wanted + " was wanted at " + at);
  }

  private String string() {
    demand('"');
    StringBuilder made = new StringBuilder();
    while (!taken('"')) {
      char letter = text.charAt(at++);
      if (letter != '\\') {
        made.append(letter);
        continue;
      }
      char escaped = text.charAt(at++);
      int named = "bfnrt".indexOf(escaped);
      if (escaped == 'u') {
        made.append((char) Integer.parseInt(text.substring(at, at + 4), 16));
        at += 4;
      } else {
        made.append(named < 0 ? escaped : "\b\f\n\r\t".charAt(named));
      }
    }
    return made.toString();
  }

  private Object word() {
    int start = at;
    while (at < text.length() && "+-.0123456789aeflnrstuE".indexOf(text.charAt(at)) >= 0) at++;
    String word = text.substring(start, at);
    return switch (word) {
      case "true" -> Boolean.TRUE;
      case "false" -> Boolean.FALSE;
      case "null" -> null;
      default -> word.matches("-?[0-9]+") ? (Object) Long.valueOf(word) : Double.valueOf(word);
    };
  }
}
