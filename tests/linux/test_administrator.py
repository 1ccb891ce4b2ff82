"""What the administrator's process tells arrives as it was told."""

from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.core.values.reasons import Reason, ReasonCode
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.linux.administrator import told_as_json, trouble_of

FACTS = st.dictionaries(
    st.sampled_from(["path", "system", "why"]),
    st.text(max_size=5) | st.integers(-9, 9) | st.floats(-9, 9),
)
REASONS = st.lists(st.builds(Reason, st.sampled_from(ReasonCode), FACTS), max_size=3)


def troubles(facts):
    return st.builds(
        lambda code, because, told: Trouble(code, because, **told),
        st.sampled_from(TroubleCode),
        REASONS,
        facts,
    )


def parts(trouble):
    facts = {
        name: parts(fact) if isinstance(fact, Trouble) else fact
        for name, fact in trouble.facts.items()
    }
    return trouble.code, trouble.because, facts


@given(troubles(FACTS | st.fixed_dictionaries({"trouble": troubles(FACTS)})))
def test_trouble_loses_nothing_on_its_way(trouble):
    arrived = trouble_of(told_as_json(trouble), TroubleCode.NOT_THE_ADMINISTRATOR)
    assert parts(arrived) == parts(trouble)


@given(st.binary(max_size=50) | st.sampled_from([b'{"code":"nonsense","facts":{}}', b"[" * 5000]))
def test_what_tells_of_no_trouble_is_no_answer(answer):
    arrived = trouble_of(answer, TroubleCode.NOT_THE_ADMINISTRATOR)
    assert isinstance(arrived, Refused)
    assert arrived.code is TroubleCode.NOT_THE_ADMINISTRATOR
