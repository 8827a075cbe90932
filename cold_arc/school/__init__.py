"""Exercises of the school, made from the core's models, tables and rules and the simulated
stand-ins, and judged by them.

A seed makes an exercise, an answer is judged. Nothing here knows pages or the store, and nothing
writes into a job.
"""
