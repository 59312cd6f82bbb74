/** JSON as maps, lists, texts, numbers (Long or Double), yes or no, and null: no more is needed. */
class Json private constructor(private val text: String) {
  private var at = 0

  private fun wrong(said: String): Nothing = throw IllegalArgumentException(said)

  private fun blank() {
    while (at < text.length && text[at] in " \t\r\n") at++
  }

  private fun value(depth: Int): Any? {
    if (depth > DEEPEST) wrong("too deep at $at")
    blank()
    if (at >= text.length) wrong("it ends too soon")
    return when (text[at]) {
      '{' -> objectAt(depth)
      '[' -> array(depth)
      '"' -> string()
      else -> word()
    }
  }

  private fun objectAt(depth: Int): Map<String, Any?> {
    val made = LinkedHashMap<String, Any?>()
    at++
    blank()
    while (!taken('}')) {
      if (made.isNotEmpty()) demand(',')
      blank()
      val name = string()
      blank()
      demand(':')
      made[name] = value(depth + 1)
      blank()
    }
    return made
  }

  private fun array(depth: Int): List<Any?> {
    val made = ArrayList<Any?>()
    at++
    blank()
    while (!taken(']')) {
      if (made.isNotEmpty()) demand(',')
      made.add(value(depth + 1))
      blank()
    }
    return made
  }

  private fun taken(wanted: Char): Boolean {
    if (at >= text.length) wrong("it ends too soon")
    if (text[at] != wanted) return false
    at++
    return true
  }

  private fun demand(wanted: Char) {
    if (!taken(wanted)) wrong("$wanted was wanted at $at")
  }

  private fun string(): String {
    demand('"')
    val made = StringBuilder()
    while (!taken('"')) {
      val letter = text[at++]
      if (letter != '\\') {
        made.append(letter)
        continue
      }
      val escaped = text.getOrElse(at++) { wrong("it ends too soon") }
      val named = "bfnrt".indexOf(escaped)
      if (escaped == 'u') {
        if (at + 4 > text.length) wrong("it ends too soon")
        made.append(text.substring(at, at + 4).toInt(16).toChar())
        at += 4
      } else {
        made.append(if (named < 0) escaped else "\b\u000c\n\r\t"[named])
      }
    }
    return made.toString()
  }

  private fun word(): Any? {
    val start = at
    while (at < text.length && text[at] in "+-.0123456789aeflnrstuE") at++
    return when (val word = text.substring(start, at)) {
      "true" -> true
      "false" -> false
      "null" -> null
      else -> word.toLongOrNull() ?: word.toDouble()
    }
  }

  companion object {
    private const val DEEPEST = 200

    /** What a text says. */
    fun read(text: String): Any? {
      val json = Json(text)
      val value = json.value(0)
      json.blank()
      if (json.at < text.length) json.wrong("more follows at ${json.at}")
      return value
    }

    /** A value as text. */
    fun write(value: Any?): String = when (value) {
      is String -> value.map(::escaped).joinToString("", "\"", "\"")
      is Map<*, *> ->
        value.entries.joinToString(",", "{", "}") { "${write("${it.key}")}:${write(it.value)}" }
      is List<*> -> value.joinToString(",", "[", "]") { write(it) }
      else -> value.toString()
    }

    private fun escaped(letter: Char): String = when {
      letter == '"' || letter == '\\' -> "\\$letter"
      letter < ' ' -> "\\u%04x".format(letter.code)
      else -> letter.toString()
    }
  }
}
