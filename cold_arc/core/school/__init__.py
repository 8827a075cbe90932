"""The school: what is taught, what an exercise is, how able somebody is, when a skill is practised
again and what is asked next.
"""
